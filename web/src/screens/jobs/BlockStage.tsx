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
import { stationWords } from "../../words/waits";
import { BlockLine, BlockWarnings, DoneLines, type LineActions, ToHave } from "./BlockLine";
import { useInPlace } from "./InPlace";
import { PhotoInput, usePhoto } from "./photos";
import { type Opened, StageDialog } from "./StageDialog";
import { isTapped, Noting, takeBlockBack, takeSkipBack, useMain, useNoting } from "./stage";

/** What one person does in one go at one place: its warnings once, all to have ready, its steps as lines, one button. */
export function BlockStage(props: {
  job: Job;
  block: BlockView;
  pick: (step: string) => void;
  oneByOne: (() => void) | undefined;
}) {
  const { job, block } = props;
  const [tapped, setTapped] = useKept<string[]>(`pony.tapped.${job.id}.${block.code}.block`, [], isTapped);
  const [twice, setTwice] = useState(false);
  const [dialog, setDialog] = useState<{ open: Opened; step: StepView } | null>(null);
  const photo = usePhoto(job.id);
  const steps = job.step_list.filter((s) => block.steps.includes(s.code));
  const open = steps.filter((s) => s.standing !== "finished");
  const first = open[0] ?? steps[0];
  const { whole, single, inPlace } = useBlock(job, block, open);
  const pending = whole.isPending || single.isPending;
  const mine = open.find((s) => s.mine);
  const begun = open.some((s) => s.state === "begun");
  const unread = block.cautions.filter((c) => !job.seen.includes(c) && !tapped.includes(c));
  const next = job.blocks.find((b) => b.code === job.next_block);
  const nextUnread = (next?.cautions ?? []).filter((c) => !job.seen.includes(c) && !block.cautions.includes(c));
  const can = job.may.includes("work") && (block.standing === "ready" || block.standing === "underway");
  const goesOn = (more: string[]) => ({
    ...(tapped.length + more.length > 0 ? { seen: [...tapped, ...more] } : {}),
    ...(twice ? { second_round: true } : {}),
  });
  const checks = open.filter((s) => s.gate || s.causes || s.opens === "new-chain");
  const done = () => {
    if (!can || pending || unread.length > 0 || checks.length > 0) return;
    whole.mutate({ action: "done", go_on: true, ...goesOn(nextUnread) });
  };
  const start = () => whole.mutate({ action: "begin", ...goesOn([]) });
  const gotIt = () => {
    const seen = [...tapped, ...unread];
    setTapped(seen);
    if (can && !begun && !pending) whole.mutate({ action: "begin", seen });
  };
  const on = (step: StepView): LineActions => ({
    twice,
    setTwice,
    tick: () =>
      step.opens === "joining-link"
        ? whole.mutate({ action: "pass", step: step.code, go_on: true, ...goesOn([]) })
        : whole.mutate({ action: "tick", step: step.code, ...goesOn([]) }),
    pass: () =>
      whole.mutate({ action: "pass", step: step.code, go_on: true, ...goesOn(open.length === 1 ? nextUnread : []) }),
    fail: () =>
      step.felt ? setDialog({ open: "felt", step }) : single.mutate({ step: step.code, action: "fail", ...goesOn([]) }),
    skip: () => setDialog({ open: "skip", step }),
    open: () => props.pick(step.code),
  });
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
          {stationWords(block.station)} · about {block.minutes} min ·{" "}
          {steps.length === 1 ? "1 step" : `${steps.length} steps`}
        </p>
        <span className="-mx-3 flex flex-wrap text-note">
          {can && !begun && unread.length === 0 && (
            <Button kind="quiet" className="px-3" disabled={pending} onClick={start}>
              Start
            </Button>
          )}
          {mine && (
            <>
              <Button kind="quiet" className="px-3" onClick={() => single.mutate({ step: mine.code, action: "pause" })}>
                Pause
              </Button>
              <Button kind="quiet" className="px-3" onClick={() => setDialog({ open: "hand-over", step: mine })}>
                Hand over
              </Button>
            </>
          )}
          {props.oneByOne && (
            <Button kind="quiet" className="px-3" onClick={props.oneByOne}>
              One by one
            </Button>
          )}
        </span>
      </div>
      <div className="-mt-3" aria-live="polite">
        <Heading className="text-figure leading-tight font-bold sm:text-reading" data-testid="block-title">
          {block.title}
        </Heading>
      </div>
      <BlockWarnings label="Warnings" cautions={block.cautions} read={unread.length === 0}>
        {unread.length > 0 && (
          <Button data-goes-on className="self-start" onClick={gotIt}>
            {can && !begun ? "Got it, start" : "Got it"}
          </Button>
        )}
      </BlockWarnings>
      <ToHave block={block} job={job} />
      <DoneLines steps={steps.filter((s) => s.standing === "finished")} />
      <ol className="flex flex-col" aria-label="Steps of this block">
        {open.map((s) => (
          <BlockLine key={s.code} step={s} busy={pending} can={can && unread.length === 0} on={on(s)}>
            {inPlace.of(s)}
          </BlockLine>
        ))}
      </ol>
      {next && nextUnread.length > 0 && can && (
        <section className="mt-auto" aria-label="Next block" data-testid="next-block">
          <p className="mb-1 text-note">
            Next: <b>{next.title}</b>. Read this before you go on:
          </p>
          <BlockWarnings label="Warnings of the next block" cautions={nextUnread} />
        </section>
      )}
      <div className="sticky bottom-0 -mx-1 mt-auto bg-base-100 px-1 py-3">
        {error != null && (
          <div className="mb-2">
            <Failure error={error} />
          </div>
        )}
        <div className="flex flex-wrap items-stretch gap-2">
          <Noting open={note} photo={photo.ask} />
        </div>
        {can && (
          <Button
            data-testid="block-done"
            data-goes-on
            kind="main"
            className="mt-2 min-h-16 w-full text-xl"
            disabled={pending || unread.length > 0 || checks.length > 0}
            onClick={done}
          >
            {mainWords(open, checks, unread.length > 0)} <Key>Enter</Key>
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

/** What the block's one button says. */
function mainWords(open: StepView[], checks: StepView[], unread: boolean): string {
  if (unread) return "Read the warnings first";
  if (checks.some((s) => s.opens === "new-chain")) return "First the new chain";
  if (checks.length > 0) return "Checks first";
  if (open.length === 1) return open[0]?.done ?? "Done";
  return `All ${open.length} done`;
}

/** Which open steps of a block an action ends. */
function endedBy(body: BlockAction, open: StepView[]): StepView[] {
  const at = open.findIndex((s) => s.code === body.step);
  switch (body.action) {
    case "done":
      return open;
    case "pass":
      return open.slice(0, at + 1);
    case "tick":
      return open.slice(at, at + 1);
    default:
      return [];
  }
}

/** What can be sent about a block and about one of its steps; a press is offered to be taken back. */
function useBlock(job: Job, block: BlockView, open: StepView[]) {
  const client = useQueryClient();
  const changes = [{ topic: "job", tag: job.tag } as const, { topic: "bike", tag: job.tag } as const];
  /** Shows the job as it is now, and offers to take back what one press did. */
  const shown = (after: Job, skipped?: string) => {
    client.setQueryData(keys.job(job.id), after);
    if (skipped) {
      const title = open.find((s) => s.code === skipped)?.title;
      return offerBack(`Skipped: ${title}`, () => takeSkipBack(client, job.id, skipped), job.id);
    }
    const done = after.step_list.filter((s) => s.state === "done" && open.some((o) => o.code === s.code));
    const [only] = done;
    if (!only || !done.every((s) => s.takes_back)) return;
    const words = done.length === 1 ? only.title : `${done.length} steps of ${block.title.toLowerCase()}`;
    offerBack(`Done: ${words}`, () => takeBlockBack(client, job.id, block.code), job.id);
  };
  const single = useWrite(async ({ step, ...body }: StepAction & { step: string }, key) => {
    const params = { path: { job: job.id, step }, header: { "Idempotency-Key": key } };
    const after = await ask(api.POST("/jobs/{job}/steps/{step}", { params, body }));
    shown(after, body.action === "skip" ? step : undefined);
  }, changes);
  const inPlace = useInPlace(job, open, () => single.mutate({ step: "new-chain", action: "done", go_on: true }));
  const whole = useWrite(async (body: BlockAction, key) => {
    const ends = endedBy(body, open);
    const condemned = await inPlace.record(key, ends);
    const params = { path: { job: job.id, block: block.code }, header: { "Idempotency-Key": key } };
    const opening = inPlace.opening(ends);
    const more = opening ? { opening } : {};
    // A chain that a reading condemned is not gone on with: the other plan is offered first.
    const sent = condemned ? { ...body, go_on: false } : body;
    shown(await ask(api.POST("/jobs/{job}/blocks/{block}", { params, body: { ...sent, ...more } })));
  }, changes);
  return { whole, single, inPlace };
}
