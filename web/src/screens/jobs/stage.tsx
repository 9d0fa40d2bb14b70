import { useEffect } from "react";
import { Button, Key } from "../../ui/controls";
import type { Opened } from "./StageDialog";

// What the stand's page has whether a job is worked in blocks or step by step.

/** Warnings that were read, as this device keeps them. */
export const isTapped = (v: unknown): v is string[] => Array.isArray(v) && v.every((x) => typeof x === "string");

/** What can be noted at any time, whatever the step. */
export function Noting(props: { open: (d: Opened) => void; photo: () => void }) {
  return (
    <>
      <Button onClick={() => props.open("finding")}>
        Fault found <Key>F</Key>
      </Button>
      <Button onClick={props.photo}>
        Photo <Key>P</Key>
      </Button>
      <Button onClick={() => props.open("note")}>
        Note <Key>N</Key>
      </Button>
      <Button onClick={() => props.open("part")}>
        Part <Key>U</Key>
      </Button>
    </>
  );
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
