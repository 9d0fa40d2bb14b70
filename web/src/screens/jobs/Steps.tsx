import { Fragment, useEffect, useRef } from "react";
import { Link } from "react-router";
import type { BlockView, Job, StepView } from "../../api/client";
import { Button } from "../../ui/controls";
import { nearTime } from "../../ui/format";
import { Tag } from "../../ui/Tag";
import { useServerTime } from "../../ui/Waits";
import { clockOf, waitState } from "../../ui/waits";

export function Steps(props: { job: Job; shown: string | undefined; inBlocks: boolean; pick: (code: string) => void }) {
  const { job, shown, pick } = props;
  const now = useServerTime();
  const list = useRef<HTMLOListElement>(null);
  useEffect(() => {
    // The list scrolls to the step, not the page: on a phone the list stands below.
    const box = list.current?.parentElement;
    const row = list.current?.querySelector<HTMLElement>('[aria-current="step"]');
    if (shown && box && row) box.scrollTop = row.offsetTop - box.clientHeight / 3;
  }, [shown]);
  return (
    <section className="card card-border bg-base-100 relative min-h-0 overflow-y-auto p-2 pt-0" aria-label="Steps">
      <div className="sticky top-0 z-10 flex items-center justify-between gap-2 bg-base-100 px-2 pt-3 pb-1">
        <Link
          to={`/bikes/${job.tag}`}
          className="inline-flex min-h-(--target) items-center"
          aria-label={`Open the bike of tag ${job.tag}`}
        >
          <Tag tag={job.tag} />
        </Link>
        {job.promised_at && (
          <span className="text-fine text-quiet">
            by <b className="font-mono text-base-content">{nearTime(job.promised_at)}</b>
          </span>
        )}
      </div>
      <ol ref={list}>
        {job.step_list.map((s) => {
          const wait = job.waits.find((w) => w.step === s.code);
          const block = props.inBlocks && job.blocks.find((b) => b.code === s.code);
          return (
            <Fragment key={s.code}>
              {block && <BlockHead block={block} />}
              <li>
                <Button
                  data-testid={`step-${s.code}`}
                  data-state={s.state}
                  aria-current={s.code === shown ? "step" : undefined}
                  onClick={() => pick(s.code)}
                  kind="row"
                  className={`gap-2 px-2 text-note ${s.code === shown ? "bg-primary/12 font-semibold" : s.standing === "finished" ? "text-quiet" : ""}`}
                >
                  <Sign step={s} />
                  <span className="min-w-0 grow truncate">{s.title}</span>
                  {s.round > 1 && <span className="font-mono text-mark text-due-ink">×{s.round}</span>}
                  {wait && <WaitClock wait={wait} now={now} />}
                  {s.state === "begun" && <span className="text-mark text-quiet">{s.by?.split(" ")[0]}</span>}
                </Button>
              </li>
            </Fragment>
          );
        })}
      </ol>
    </section>
  );
}

function BlockHead({ block: b }: { block: BlockView }) {
  return (
    <li className="flex justify-between gap-2 px-2 pt-2 text-fine text-quiet">
      <b>{b.title}</b> {b.minutes} min
    </li>
  );
}

function WaitClock({ wait, now }: { wait: Job["waits"][number]; now: number }) {
  const s = waitState(wait, now);
  return (
    <span className={`font-mono text-fine ${s.kind === "late" ? "font-semibold text-error" : ""}`}>
      {s.kind === "runs" || s.kind === "clock" ? clockOf(s.left) : s.kind === "over" ? "done" : "late"}
    </span>
  );
}

const signs: Record<StepView["standing"], string> = {
  finished: "done",
  underway: "under way",
  ready: "ready to start",
  held: "waits",
  blocked: "not yet",
  withheld: "withheld",
};

/** How a step stands: by shape, colour only helps. A safety check is a gate until it is made. */
function Sign({ step: s }: { step: StepView }) {
  const how = s.state === "skipped" ? "left out" : signs[s.standing];
  return (
    <svg width="18" height="18" viewBox="0 0 18 18" role="img" aria-label={how} className="shrink-0" fill="none">
      {s.state === "skipped" ? (
        <path d="M4 9h10" className="stroke-quiet" strokeWidth="2" />
      ) : s.standing === "finished" ? (
        <path d="M3 9.5l4 4 8-9" className="stroke-success" strokeWidth="2.2" />
      ) : s.standing === "underway" ? (
        <path d="M4 3l11 6-11 6z" className="fill-primary" />
      ) : s.standing === "held" ? (
        <path d="M15 9a6 6 0 1 1-3-5.2" className="stroke-warning" strokeWidth="3" />
      ) : s.gate ? (
        <path d="M2 15V4M16 15V4M2 6h14M2 12h14M9 6v6" className="stroke-error" strokeWidth="2" />
      ) : (
        <circle cx="9" cy="9" r="4" className="stroke-quiet" strokeWidth="1.8" />
      )}
    </svg>
  );
}
