import type { ReactNode } from "react";
import type { BlockView, Job, StepView } from "../../api/client";
import { Button, Checkbox } from "../../ui/controls";
import { inShopUnits } from "../../ui/units";
import { cautionWords } from "../../words/cleaning";
import { waitWords } from "../../words/waits";
import { lubricantLine, materialWords } from "../../words/work";
import { amountWords } from "./jobs";
import { OnShelf } from "./OnShelf";
import { SecondRound } from "./stage";

export type LineActions = Record<"tick" | "pass" | "fail" | "skip" | "open", () => void> & {
  twice: boolean;
  setTwice: (on: boolean) => void;
};

/** A step as a line: ticked by itself, opened for what and why, a check with its own buttons, and what it wants recorded. */
export function BlockLine(props: {
  step: StepView;
  can: boolean;
  busy: boolean;
  on: LineActions;
  children: ReactNode;
}) {
  const { step: s, can, busy, on } = props;
  const check = s.gate === true || s.fail !== undefined;
  const itself = check || s.causes !== undefined || s.opens === "new-chain" || s.opens === "joining-link";
  return (
    <li
      data-testid={`line-${s.code}`}
      data-state={s.state}
      className="flex flex-wrap items-center gap-x-3 border-t border-base-300"
    >
      {itself ? (
        <span
          aria-hidden
          data-gate={s.gate || s.opens === "joining-link" || undefined}
          className="w-6 shrink-0 text-center text-quiet"
        >
          {check ? "?" : "›"}
        </span>
      ) : (
        <label className="flex min-h-(--target) min-w-6 shrink-0 items-center">
          <Checkbox aria-label={`Done: ${s.title}`} checked={false} disabled={!can || busy} onChange={on.tick} />
        </label>
      )}
      <details className="min-w-0 grow basis-56">
        <summary className="flex min-h-(--target) items-center gap-3 py-1">
          <span className="min-w-0 grow text-lg">{s.title}</span>
          <Amounts step={s} />
          <span className="text-note text-quiet underline underline-offset-4">why</span>
        </summary>
        <p>{inShopUnits(s.do)}</p>
        <p className="text-note text-quiet">{inShopUnits(s.why)}</p>
        {can && !s.gate && (
          <Button kind="quiet" className="-ml-4 text-note" onClick={on.skip} aria-label={`Skip this step: ${s.title}`}>
            Skip this step
          </Button>
        )}
      </details>
      {can && (
        <span className="flex flex-wrap gap-2 py-1 empty:hidden">
          {s.causes !== undefined ? (
            <Button onClick={on.open}>Which is it?</Button>
          ) : (
            itself &&
            s.opens !== "new-chain" && (
              <Button
                data-goes-on={s.gate || undefined}
                disabled={busy}
                onClick={s.gate ? on.pass : on.tick}
                aria-label={`Pass: ${s.title}`}
              >
                Pass
              </Button>
            )
          )}
          {s.fail && (
            <Button disabled={busy} onClick={on.fail} aria-label={`Fail: ${s.title}, ${s.fail}`}>
              Fail
            </Button>
          )}
        </span>
      )}
      {can && (
        <>
          <SecondRound step={s} on={on.twice} set={on.setTwice} />
          {props.children}
        </>
      )}
    </li>
  );
}

function Amounts({ step: s }: { step: StepView }) {
  return (
    <span className="shrink-0 text-right font-mono text-note max-sm:hidden">
      {s.lubricant && <b className="font-sans">{lubricantLine(s.lubricant)} </b>}
      {s.amounts
        .filter((a) => a.unit !== "piece")
        .map((a) => amountWords(a))
        .join(", ")}
      {s.wait && s.wait.least_min > 0 && (
        <span className="block font-sans text-quiet">
          then {waitWords(s.wait.code)}, {s.wait.least_min} min
        </span>
      )}
    </span>
  );
}

/** What of a block is over: by whom, or why it was left out. */
export function DoneLines({ steps }: { steps: StepView[] }) {
  if (steps.length === 0) return null;
  return (
    <details className="text-quiet">
      <summary className="flex min-h-(--target) items-center gap-2">
        <svg width="18" height="18" viewBox="0 0 18 18" fill="none" aria-hidden>
          <path d="M3 9.5l4 4 8-9" className="stroke-success" strokeWidth="2.2" />
        </svg>
        {steps.length} done: {steps.map((s) => s.title.toLowerCase()).join(", ")}
      </summary>
      <ul className="pl-6 text-note">
        {steps.map((s) => (
          <li key={s.code} data-testid={`line-${s.code}`} data-state={s.state}>
            {s.title}
            {s.state === "skipped" ? `: left out, ${s.reason}` : `: ${s.by}`}
          </li>
        ))}
      </ul>
    </details>
  );
}

/** Warnings, each once; those that are not read yet have one button for all. */
export function BlockWarnings(props: { label: string; cautions: string[]; read?: boolean; children?: ReactNode }) {
  if (props.cautions.length === 0) return null;
  return (
    <div className="flex flex-col gap-2">
      <ul className={props.read ? "grid gap-1 text-note" : "grid gap-2 xl:grid-cols-2"} aria-label={props.label}>
        {props.cautions.map((c) => (
          <li
            key={c}
            data-testid="caution"
            className={`border-l-4 border-rust bg-rust/8 px-3 ${props.read ? "py-1" : "py-2"}`}
          >
            {cautionWords(c)}
          </li>
        ))}
      </ul>
      {props.children}
    </div>
  );
}

/** All tools and amounts of the block, to have ready before it is begun. */
export function ToHave({ block, job }: { block: BlockView; job: Job }) {
  if (block.tools.length === 0 && block.amounts.length === 0) return null;
  return (
    <>
      <p className="text-note text-quiet">
        {block.tools.length > 0 && `Tools: ${block.tools.join(", ")}. `}
        {block.amounts.length > 0 &&
          `To use: ${block.amounts.map((a) => `${materialWords(a.material)} ${amountWords(a)}`).join(", ")}.`}
      </p>
      <OnShelf job={job} of={block.amounts.map((a) => a.material)} />
    </>
  );
}
