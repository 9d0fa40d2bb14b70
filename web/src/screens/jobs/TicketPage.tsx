import { useParams } from "react-router";
import type { BlockView, Job } from "../../api/client";
import { useJob } from "../../outbox/job";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { Heading } from "../../ui/Heading";
import { money } from "../../ui/money";
import { inShopUnits } from "../../ui/units";
import { cautionWords } from "../../words/cleaning";
import { stationWords, waitWords } from "../../words/waits";
import { lubricantLine, materialWords, routeName } from "../../words/work";
import { JobHead } from "./JobHead";
import { amountWords, hours, quoteWords } from "./jobs";

/** The job on paper, for the stand: every step with its box, the cautions first, tools and amounts. */
export function TicketPage() {
  const { id = "" } = useParams();
  const job = useJob(id);
  return (
    <Fetched query={job} what="the ticket">
      {(j) => <Ticket job={j} />}
    </Fetched>
  );
}

function Ticket({ job }: { job: Job }) {
  const p = job.plan;
  return (
    <div className="mx-auto flex max-w-[900px] flex-col gap-3 p-3 text-note wrap-anywhere sm:p-6 print:max-w-none print:p-0 print:text-mark">
      <Heading unseen>Ticket of {job.tag}</Heading>
      <div className="no-print flex flex-wrap gap-2">
        <Button kind="main" onClick={() => window.print()}>
          Print
        </Button>
        <ButtonLink to={`/jobs/${job.id}`}>Back to the job</ButtonLink>
      </div>
      <JobHead job={job} />
      {!p ? (
        <p className="card card-border bg-base-100 p-4">The job is not planned yet: its ticket has nothing on it.</p>
      ) : (
        <>
          <section className="card card-border bg-base-100 grid gap-x-6 gap-y-2 p-4 sm:grid-cols-2 print:grid-cols-2">
            <p>
              <b>{routeName(p.route)}</b>, hands-on {hours(p.hands_min)}, ready in {hours(p.ready_min)} at the least
              {p.ride_min !== undefined && p.ride_min > p.ready_min && `, ridden in ${hours(p.ride_min)}`}.{" "}
              {p.lubricant && `On goes ${lubricantLine(p.lubricant)}. `}
              {job.agreed
                ? `${money(job.agreed.price, p.quote.currency)} agreed; quoted ${quoteWords(p.quote)}.`
                : `Quoted ${quoteWords(p.quote)}; no price was agreed.`}
            </p>
            <p>Tools: {p.tools.join(", ")}.</p>
            <div className="sm:col-span-2 print:col-span-2">
              <h2 className="font-semibold">Warnings</h2>
              <ul className="grid gap-x-6 gap-y-1.5 sm:grid-cols-2 print:grid-cols-2">
                {p.cautions.map((c) => (
                  <li key={c} className="border-l-4 border-rust pl-2">
                    {cautionWords(c)}
                  </li>
                ))}
              </ul>
              <p className="mt-1 text-quiet">
                Part markings, product labels, makers' instructions and local codes come before anything here.
              </p>
            </div>
          </section>
          <ol className="card card-border bg-base-100 divide-y divide-base-300">
            {job.step_list.flatMap((s) => [
              ...job.blocks.filter((b) => b.code === s.code).map((b) => <BlockRow key={`block ${b.code}`} block={b} />),
              <li
                key={s.code}
                className="grid grid-cols-[22px_minmax(0,1fr)_auto] gap-x-3 px-4 py-1.5 break-inside-avoid"
              >
                <span
                  aria-hidden
                  className={`mt-0.5 size-4 border-2 border-base-content ${s.gate ? "rounded-full border-error" : ""} ${s.standing === "finished" ? "bg-base-content" : ""}`}
                />
                <span className="min-w-0">
                  <b>{s.title}</b> {inShopUnits(s.do)}
                  {s.lubricant && <b> {lubricantLine(s.lubricant)}.</b>}
                  {s.amounts.length > 0 && (
                    <span className="font-mono">
                      {" "}
                      {s.amounts.map((a) => `${materialWords(a.material)} ${amountWords(a)}`).join(", ")}
                    </span>
                  )}
                </span>
                <span className="text-right whitespace-nowrap text-quiet">
                  {stationWords(s.station)} {s.minutes} min
                  {s.wait && (
                    <span className="block">
                      {waitWords(s.wait.code)} {s.wait.least_min > 0 && s.wait.least_min}
                      {s.wait.most_min ? `–${s.wait.most_min}` : ""} min
                    </span>
                  )}
                </span>
              </li>,
            ])}
          </ol>
          <p className="text-quiet">A round box is a safety check: the bike is not handed back before it.</p>
          <p className="mt-6 flex flex-wrap gap-x-12 gap-y-6">
            <span className="w-64 border-t border-base-content pt-1">Mechanic</span>
            {job.needs_second && <span className="w-64 border-t border-base-content pt-1">Second signature</span>}
          </p>
        </>
      )}
    </div>
  );
}

/** What is done in one go at one place, over its steps. */
function BlockRow({ block: b }: { block: BlockView }) {
  return (
    <li className="flex justify-between gap-3 bg-base-200 px-4 py-1 font-semibold break-after-avoid print:bg-transparent print:pt-2">
      <span>{b.title}</span>
      <span className="font-normal text-quiet">
        {stationWords(b.station)} {b.minutes} min
      </span>
    </li>
  );
}
