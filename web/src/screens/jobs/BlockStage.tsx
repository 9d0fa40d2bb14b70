import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type BlockAction, type BlockView, type Job, type StepAction, type StepView } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Key } from "../../ui/controls";
import { Heading } from "../../ui/Heading";
import { useKept } from "../../ui/kept";
import { Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { offerBack } from "../../ui/undo";
import { inShopUnits } from "../../ui/units";
import { cautionWords } from "../../words/cleaning";
import { stationWords, waitWords } from "../../words/waits";
import { lubricantLine, materialWords } from "../../words/work";
import { amountWords } from "./jobs";
import { PhotoInput, usePhoto } from "./photos";
import { type Opened, StageDialog } from "./StageDialog";
import { isTapped, Noting, SecondRound, takeBlockBack, takeSkipBack, useMain, useNoting } from "./stage";

/** What one person does in one go at one place: its warnings once, all to have at hand, its steps as lines, one button. */
export function BlockStage(props: { job: Job; block: BlockView; pick: (step: string) => void; oneByOne: () => void }) {
  const { job, block } = props;
  const client = useQueryClient();
  const [tapped, setTapped] = useKept<string[]>(`pony.tapped.${job.id}.${block.code}.block`, [], isTapped);
  const [twice, setTwice] = useState(false);
  const [dialog, setDialog] = useState<{ open: Opened; step: StepView } | null>(null);
  const photo = usePhoto(job.id);
  /** Shows the job as it is now, and offers to take back what one press did. */
  const shown = (after: Job, skipped?: string) => {
    client.setQueryData(keys.job(job.id), after);
    if (skipped) {
      const title = steps.find((s) => s.code === skipped)?.title;
      return offerBack(`Skipped: ${title}`, () => takeSkipBack(client, job.id, skipped), job.id);
    }
    const done = after.step_list.filter((s) => s.state === "done" && open.some((o) => o.code === s.code));
    const [only] = done;
    if (!only || !done.every((s) => s.takes_back)) return;
    const words = done.length === 1 ? only.title : `${done.length} steps of ${block.title.toLowerCase()}`;
    offerBack(`Done: ${words}`, () => takeBlockBack(client, job.id, block.code), job.id);
  };
  const change = [{ topic: "job", tag: job.tag }] as const;
  const whole = useWrite(
    async (body: BlockAction, key) =>
      shown(
        await ask(
          api.POST("/jobs/{job}/blocks/{block}", {
            params: { path: { job: job.id, block: block.code }, header: { "Idempotency-Key": key } },
            body,
          }),
        ),
      ),
    [...change],
  );
  const single = useWrite(
    async ({ step, ...body }: StepAction & { step: string }, key) =>
      shown(
        await ask(
          api.POST("/jobs/{job}/steps/{step}", {
            params: { path: { job: job.id, step }, header: { "Idempotency-Key": key } },
            body,
          }),
        ),
        body.action === "skip" ? step : undefined,
      ),
    [...change],
  );
  const pending = whole.isPending || single.isPending;
  const steps = job.step_list.filter((s) => block.steps.includes(s.code));
  const open = steps.filter((s) => s.standing !== "finished");
  const checks = open.filter((s) => s.gate || s.causes);
  const begun = open.some((s) => s.state === "begun");
  const unread = block.cautions.filter((c) => !job.seen.includes(c) && !tapped.includes(c));
  const works = job.may.includes("work");
  const can = works && (block.standing === "ready" || block.standing === "underway");
  const seen = { ...(tapped.length > 0 ? { seen: tapped } : {}), ...(twice ? { second_round: true } : {}) };
  const done = () => {
    if (!can || pending || unread.length > 0) return;
    if (!begun) return whole.mutate({ action: "begin", ...seen });
    if (checks.length === 0) whole.mutate({ action: "done", go_on: true, ...seen });
  };
  const gotIt = () => {
    const seen = [...tapped, ...unread];
    setTapped(seen);
    if (can && !begun && !pending) whole.mutate({ action: "begin", seen });
  };
  const on = (step: StepView) => ({
    twice,
    setTwice,
    tick: () => single.mutate({ step: step.code, action: "done", ...seen }),
    pass: () => whole.mutate({ action: "pass", step: step.code, go_on: true, ...seen }),
    fail: () => single.mutate({ step: step.code, action: "fail", ...seen }),
    skip: () => setDialog({ open: "skip", step }),
    open: () => props.pick(step.code),
  });
  const first = open[0] ?? steps[0];
  const note = (what: Opened) => first && setDialog({ open: what, step: first });
  useMain(dialog === null, done);
  useNoting(note, photo.ask);
  const error = whole.error ?? single.error;
  return (
    <section
      className="card card-border bg-base-100 flex min-w-0 grow flex-col gap-4 px-4 pt-4 sm:px-6 sm:pt-6 min-[1140px]:overflow-y-auto"
      aria-label="Current block"
    >
      <div className="flex flex-wrap items-center justify-between gap-x-4">
        <p className="text-note text-quiet">
          Block {job.blocks.findIndex((b) => b.code === block.code) + 1} of {job.blocks.length} ·{" "}
          {stationWords(block.station)} · about {block.minutes} min
        </p>
        <Button kind="quiet" className="text-note" onClick={props.oneByOne}>
          One by one
        </Button>
      </div>
      <div className="-mt-3" aria-live="polite">
        <Heading className="text-figure leading-tight font-bold sm:text-reading" data-testid="block-title">
          {block.title}
        </Heading>
      </div>
      <BlockWarnings block={block} unread={unread} starts={can && !begun} got={gotIt} />
      <ToHave block={block} />
      <ol className="flex flex-col" aria-label="Steps of this block">
        {steps.map((s) => (
          <Line key={s.code} step={s} busy={pending} can={can && unread.length === 0} on={on(s)} />
        ))}
      </ol>
      {error != null && <Failure error={error} />}
      <div className="sticky bottom-0 -mx-1 mt-auto flex flex-wrap items-stretch gap-2 bg-base-100 px-1 py-3">
        <Noting open={note} photo={photo.ask} />
        {can && (
          <Button
            data-testid="block-done"
            kind="main"
            className="min-h-16 grow text-xl"
            disabled={pending || unread.length > 0 || (begun && checks.length > 0)}
            onClick={done}
          >
            {unread.length > 0
              ? "Read the warnings first"
              : !begun
                ? "Start"
                : checks.length > 0
                  ? "Checks first"
                  : open.length === 1
                    ? first?.done
                    : `All ${open.length} done`}{" "}
            <Key>Enter</Key>
          </Button>
        )}
      </div>
      <PhotoInput photo={photo} />
      {dialog && (
        <StageDialog
          dialog={dialog.open}
          job={job}
          step={dialog.step}
          error={single.error}
          go={(body) => single.mutate({ step: dialog.step.code, ...body })}
          close={() => setDialog(null)}
        />
      )}
    </section>
  );
}

/** What must be known before the block, all of it once. */
function BlockWarnings(props: { block: BlockView; unread: string[]; starts: boolean; got: () => void }) {
  const { block, unread } = props;
  if (block.cautions.length === 0) return null;
  return (
    <div className="flex flex-col gap-2">
      <ul className="grid gap-2 xl:grid-cols-2" aria-label="Warnings">
        {block.cautions.map((c) => (
          <li key={c} data-testid="caution" className="border-l-4 border-rust bg-rust/8 px-3 py-2">
            {cautionWords(c)}
          </li>
        ))}
      </ul>
      {unread.length > 0 && (
        <Button className="self-start" onClick={props.got}>
          {props.starts ? "Got it, start" : "Got it"}
        </Button>
      )}
    </div>
  );
}

/** All tools and amounts of the block, to have at hand before it is begun. */
function ToHave({ block }: { block: BlockView }) {
  if (block.tools.length === 0 && block.amounts.length === 0) return null;
  return (
    <p className="text-note text-quiet">
      {block.tools.length > 0 && `Tools: ${block.tools.join(", ")}. `}
      {block.amounts.length > 0 &&
        `To use: ${block.amounts.map((a) => `${materialWords(a.material)} ${amountWords(a)}`).join(", ")}.`}
    </p>
  );
}

type On = Record<"tick" | "pass" | "fail" | "skip" | "open", () => void> & {
  twice: boolean;
  setTwice: (on: boolean) => void;
};

/** A step as a line: what to do, why on demand, and the buttons that are its own. */
function Line({ step: s, can, busy, on }: { step: StepView; can: boolean; busy: boolean; on: On }) {
  const over = s.standing === "finished";
  const itself =
    s.causes !== undefined || s.opens === "joining-link" || s.opens === "readings" || s.opens === "new-chain";
  return (
    <li
      data-testid={`line-${s.code}`}
      data-state={s.state}
      className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-base-300 py-2"
    >
      <details className="min-w-0 grow basis-64">
        <summary className={`min-h-(--target) content-center ${over ? "text-quiet" : "font-semibold"}`}>
          {s.title}
          {over && (s.state === "skipped" ? `: left out, ${s.reason}` : `: ${s.by}`)}
        </summary>
        <p>{inShopUnits(s.do)}</p>
        <p className="text-note text-quiet">{inShopUnits(s.why)}</p>
      </details>
      {!over && can && <SecondRound step={s} on={on.twice} set={on.setTwice} />}
      {!over && (
        <span className="text-note text-quiet">
          {s.lubricant && <b className="text-base-content">{lubricantLine(s.lubricant)} </b>}
          {s.amounts.map((a) => `${materialWords(a.material)} ${amountWords(a)}`).join(", ")}
          {s.wait && s.wait.least_min > 0 && ` then ${waitWords(s.wait.code)}, ${s.wait.least_min} min`}
        </span>
      )}
      {!over && can && (
        <span className="flex flex-wrap gap-2">
          {itself ? (
            <Button onClick={on.open}>Open</Button>
          ) : s.gate ? (
            <Button disabled={busy} onClick={on.pass}>
              Pass
            </Button>
          ) : (
            <Button disabled={busy} onClick={on.tick}>
              Done
            </Button>
          )}
          {s.fail && (
            <Button disabled={busy} onClick={on.fail}>
              {s.fail}
            </Button>
          )}
          {!s.gate && (
            <Button kind="quiet" className="px-2 text-note" onClick={on.skip}>
              Skip
            </Button>
          )}
        </span>
      )}
    </li>
  );
}
