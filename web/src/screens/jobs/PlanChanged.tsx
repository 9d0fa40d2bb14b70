import { useQueryClient } from "@tanstack/react-query";
import { api, ask, type Job, type PlanChange } from "../../api/client";
import { keys } from "../../api/keys";
import { Button } from "../../ui/controls";
import { Heading } from "../../ui/Heading";
import { useKept } from "../../ui/kept";
import { money } from "../../ui/money";
import { Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { routeWords } from "../../words/cleaning";
import { materialWords } from "../../words/work";
import { minutes } from "../bikes/cleaning";

const isYes = (v: unknown): v is boolean => typeof v === "boolean";

/** Whether somebody keeps the plan there is although a reading asks for another; and how to say so. */
export const useKeptPlan = (job: Job) => useKept<boolean>(`pony.plan-kept.${job.id}`, false, isYes);

/** A reading condemned the chain: what is left of the plan beside what would be left of the new one, and one button. */
export function PlanChanged({ job, change: c, keep }: { job: Job; change: PlanChange; keep: () => void }) {
  const client = useQueryClient();
  const send = useWrite(async () => {
    const body = { version: job.version, route: c.route, ...(c.reason ? { reason: c.reason } : {}) };
    client.setQueryData(
      keys.job(job.id),
      await ask(api.PUT("/jobs/{job}/plan", { params: { path: { job: job.id } }, body })),
    );
  }, [{ topic: "job", tag: job.tag }]);
  const shorter = c.new_left_min <= c.left_min;
  return (
    <section
      className="card card-border bg-base-100 flex min-w-0 grow flex-col gap-4 p-4 sm:p-6"
      aria-label="Change of plan"
    >
      <Heading className="text-figure leading-tight font-bold sm:text-reading" data-testid="plan-changed">
        {shorter ? "The chain goes: the rest of the plan is shorter" : "The chain goes: the plan changes"}
      </Heading>
      <p className="text-quiet">
        {c.verdict === "replace-together"
          ? "Its reading says that chain and cassette go together."
          : "Its reading is past the limit."}{" "}
        Cleaning it is work for the bin. What was done, and its minutes, stay with the job.
      </p>
      <div className="grid gap-3 sm:grid-cols-2">
        <Side
          title="As planned"
          left={c.left_min}
          total={money(c.total, c.currency)}
          words="Falls away"
          steps={c.drops}
        />
        <Side
          title={`With a new chain, ${routeWords[c.route].name.toLowerCase()}`}
          left={c.new_left_min}
          total={money(c.new_total, c.currency)}
          more={c.unpriced.map((p) => materialWords(p).toLowerCase())}
          words="Comes in"
          steps={c.adds}
        />
      </div>
      <p className="text-note">Agree the new price with the customer before the chain is cut.</p>
      {send.isError && <Failure error={send.error} />}
      <div className="sticky bottom-0 mt-auto flex flex-wrap gap-2 bg-base-100 py-3">
        <Button kind="main" className="min-h-16 grow text-xl" disabled={send.isPending} onClick={() => send.mutate()}>
          Take the new plan
        </Button>
        <Button kind="quiet" onClick={keep}>
          Keep the old plan
        </Button>
      </div>
    </section>
  );
}

function Side(props: { title: string; left: number; total: string; more?: string[]; words: string; steps: string[] }) {
  return (
    <div className="rounded-field border border-base-300 p-3">
      <h2 className="font-semibold">{props.title}</h2>
      <p className="font-mono text-lg">
        {minutes(props.left)} <span className="font-sans text-note text-quiet">left by hand</span>
      </p>
      <p className="font-mono text-lg">
        {props.total}{" "}
        {props.more && props.more.length > 0 && (
          <span className="font-sans text-note text-quiet">and {props.more.join(", ")}, not priced</span>
        )}
      </p>
      {props.steps.length > 0 && (
        <>
          <p className="mt-2 text-note text-quiet">{props.words}</p>
          <ul className="list-inside list-disc text-note">
            {props.steps.map((s) => (
              <li key={s}>{s}</li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}
