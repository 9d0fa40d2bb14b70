import type { QueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, ask, type StepView } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Key } from "../../ui/controls";
import { useCommands } from "../../ui/frame";
import { Tick } from "../../ui/parts";
import { writeOnce } from "../../ui/sending";
import { amountWords } from "./jobs";
import type { Noted } from "./StageDialog";

// What the stand's page has whether a job is worked in blocks or step by step.

/** Warnings that were read, as this device keeps them. */
export const isTapped = (v: unknown): v is string[] => Array.isArray(v) && v.every((x) => typeof x === "string");

/** Has a step that was left out by a slip of the hand be done after all. */
export async function takeSkipBack(client: QueryClient, job: string, step: string): Promise<void> {
  const params = { path: { job, step } };
  const send = () => ask(api.POST("/jobs/{job}/steps/{step}", { params, body: { action: "take-back" } }));
  client.setQueryData(keys.job(job), await writeOnce(client, send, { topic: "job" }));
}

/** Has what one press did in a block be open again. */
export async function takeBlockBack(client: QueryClient, job: string, block: string): Promise<void> {
  const params = { path: { job, block } };
  const send = () => ask(api.POST("/jobs/{job}/blocks/{block}", { params, body: { action: "take-back" } }));
  client.setQueryData(keys.job(job), await writeOnce(client, send, { topic: "job" }));
}

/** On a phone they stand in one row. */
const small = "max-sm:px-2.5 max-sm:text-note";

/** What can be noted at any time, whatever the step. */
export function Noting(props: { open: (d: Noted) => void; photo: () => void }) {
  return (
    <>
      <Button className={small} onClick={() => props.open("finding")}>
        Fault found <Key>F</Key>
      </Button>
      <Button className={small} onClick={props.photo}>
        Photo <Key>P</Key>
      </Button>
      <Button className={small} onClick={() => props.open("note")}>
        Note <Key>N</Key>
      </Button>
      <Button className={small} onClick={() => props.open("part")}>
        Part <Key>U</Key>
      </Button>
    </>
  );
}

/** A step that may be done once more: only where somebody says so, and then it draws from stock again. */
export function SecondRound(props: { step: StepView; on: boolean; set: (on: boolean) => void }) {
  const { second_round: when, amounts } = props.step;
  if (!when) return null;
  return (
    <Tick on={props.on} set={props.set}>
      {when} <span className="text-note text-quiet">({amounts.map((a) => `${amountWords(a)} more`).join(", ")})</span>
    </Tick>
  );
}

/** The keys of what can be noted at any time. */
export function useNoting(open: (d: Noted) => void, photo: () => void): void {
  useCommands({
    f: { words: "Note a fault found", run: () => open("finding") },
    p: { words: "Take a photo", run: photo },
    n: { words: "Write a note", run: () => open("note") },
    u: { words: "Note a part that was used", run: () => open("part") },
  });
}

/** Enter does the main action, unless something is typed or a button has the focus. */
export function useMain(on: boolean, run: () => void): void {
  useEffect(() => {
    if (!on) return;
    const key = (e: KeyboardEvent) => {
      if (e.key !== "Enter" || e.defaultPrevented || document.querySelector("dialog[open]")) return;
      const at = document.activeElement;
      if (at && at !== document.body && at.tagName !== "MAIN") return;
      run();
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  });
}
