import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type FindingRow, type Job, type JobPartRow } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Input } from "../../ui/controls";
import { FormDialog } from "../../ui/FormDialog";
import { money } from "../../ui/money";
import { Failure, Field } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { Unsent } from "../../ui/Unsent";
import { materialWords, routeName, severityWords } from "../../words/work";
import { reasonFault, useStriking } from "../bikes/striking";
import { agreedBy, besideAgreed } from "./Agreed";
import { HandBackPart } from "./HandBackPart";
import { Complaints, FindingName } from "./JobWords";
import { amountWords, hours } from "./jobs";
import { Thumbnails } from "./photos";

/** Beside the step: what the owner wants, the route and its price, amounts, what was found, and the hand-back. */
export function Beside({ job }: { job: Job }) {
  const p = job.plan;
  return (
    <section className="card card-border bg-base-100 flex flex-col gap-4 p-4 wrap-anywhere" aria-label="This job">
      <Unsent job={job.id} />
      <div>
        <p className="text-fine font-semibold text-quiet truncate">
          {job.customer.name}, {job.bike}
        </p>
        <Complaints codes={job.intake.complaints} />
        {job.intake.reports && <p className="text-note">“{job.intake.reports}”</p>}
        {job.intake.wants && <p className="text-note">Customer asked for: {job.intake.wants}</p>}
        {job.comeback && (
          <Link to={`/jobs/${job.comeback.id}`} className="text-note text-due-ink underline underline-offset-4">
            Comes back: the job before
          </Link>
        )}
      </div>
      {p && (
        <div>
          <p className="text-fine font-semibold text-quiet">Route</p>
          <p className="text-lg font-semibold">{routeName(p.route)}</p>
          {p.reason && <p className="text-note text-quiet">Not as recommended: {p.reason}</p>}
          <p className="text-note text-quiet">
            hands-on {hours(job.hands_min)}, so far {hours(Math.round(job.worked_min))}
          </p>
          <div className="mt-1 h-2 overflow-hidden rounded-full bg-base-300" aria-hidden>
            <div
              className={`h-full ${job.worked_min > job.hands_min ? "bg-error" : "bg-primary"}`}
              style={{ width: `${Math.min(100, (100 * job.worked_min) / Math.max(1, job.hands_min))}%` }}
            />
          </div>
          <p className="mt-1 font-mono text-note">
            {money(p.quote.total, p.quote.currency)} quoted
            {job.agreed !== undefined && `, ${money(job.agreed.price, p.quote.currency)} agreed`}
            {job.bill && job.parts.length > 0 && `, ${money(job.bill.total, p.quote.currency)} with parts`}
          </p>
          {job.agreed && (
            <p className="text-fine text-quiet">
              {agreedBy(job.agreed) && `Agreed ${agreedBy(job.agreed)}. `}
              {p.quote.total !== job.agreed.price &&
                `The quote is ${besideAgreed(job.agreed, p.quote.total, p.quote.currency)}.`}
            </p>
          )}
          {job.ask_owner && (
            <p className="text-note font-semibold text-due-ink">More than was agreed: ask the customer.</p>
          )}
        </div>
      )}
      {p && p.uses.length > 0 && (
        <details>
          <summary className="text-fine font-semibold text-quiet min-h-(--target) content-center">
            For this bike
          </summary>
          <ul className="text-note">
            {p.uses.map((a) => (
              <li key={a.material} className="flex justify-between gap-2 border-t border-base-300 py-1">
                <span>{materialWords(a.material)}</span>
                <span className="text-right font-mono">{amountWords(a)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
      <Found job={job} />
      <PartsUsed job={job} />
      <Thumbnails job={job} />
      {job.notes.length > 0 && (
        <ul className="flex flex-col gap-1 text-note" aria-label="Notes">
          {job.notes.map((n) => (
            <li key={n.at + n.text} className="break-words">
              {n.text} <span className="text-quiet">{n.by.split(" ")[0]}</span>
            </li>
          ))}
        </ul>
      )}
      <HandBackPart job={job} />
      <nav aria-label="Papers" className="flex flex-wrap gap-x-3 text-note">
        <Link className="min-h-(--target) content-center underline underline-offset-4" to={`/jobs/${job.id}/ticket`}>
          Ticket
        </Link>
        <Link className="min-h-(--target) content-center underline underline-offset-4" to={`/jobs/${job.id}/report`}>
          Customer's words
        </Link>
        <Link className="min-h-(--target) content-center underline underline-offset-4" to={`/jobs/${job.id}/plan`}>
          Re-plan
        </Link>
        <Link className="min-h-(--target) content-center underline underline-offset-4" to={`/bikes/${job.tag}/replace`}>
          Replace
        </Link>
      </nav>
    </section>
  );
}

function Found({ job }: { job: Job }) {
  if (job.findings.length === 0) return null;
  return (
    <div>
      <p className="text-fine font-semibold text-quiet">Found so far</p>
      <ul>
        {job.findings.map((f) => (
          <Finding key={f.id} job={job} finding={f} />
        ))}
      </ul>
    </div>
  );
}

function Finding({ job, finding: f }: { job: Job; finding: FindingRow }) {
  const client = useQueryClient();
  const settle = useWrite(
    (resolution: "fixed" | "owner-told") =>
      ask(
        api.PUT("/jobs/{job}/findings/{finding}", {
          params: { path: { job: job.id, finding: f.id } },
          body: { resolution },
        }),
      ),
    [{ topic: "job", tag: job.tag }],
    (after) => client.setQueryData(keys.job(job.id), after),
  );
  return (
    <li className="border-t border-base-300 py-2 text-note" data-testid="finding">
      <p>
        {f.code === "other" ? f.note : <FindingName code={f.code} />}
        {f.place && `, ${f.place}`}{" "}
        <b className={f.severity === "stop" && !f.resolution ? "text-error" : "text-quiet"}>
          {f.resolution === "fixed"
            ? "fixed"
            : f.resolution === "owner-told"
              ? "customer told, leaves unridden"
              : severityWords[f.severity].toLowerCase()}
        </b>
      </p>
      {f.note && f.code !== "other" && <p className="text-quiet">{f.note}</p>}
      {!f.resolution && (
        <div className="mt-1 flex flex-wrap gap-2">
          <Button className="px-3 text-note" onClick={() => settle.mutate("fixed")}>
            Fixed
          </Button>
          {f.severity === "stop" && job.may.includes("release") && (
            <Button className="px-3 text-note" onClick={() => settle.mutate("owner-told")}>
              Customer told, leaves unridden
            </Button>
          )}
        </div>
      )}
      {settle.isError && <Failure error={settle.error} />}
    </li>
  );
}

/** Parts that were noted, each with the way to take it out again: it stays in the ledger, struck out. */
function PartsUsed({ job }: { job: Job }) {
  const [wrong, setWrong] = useState<JobPartRow | null>(null);
  if (job.parts.length === 0) return null;
  const currency = job.plan?.quote.currency ?? "EUR";
  return (
    <div>
      <p className="text-fine font-semibold text-quiet">Parts used</p>
      <ul className="text-note">
        {job.parts.map((p) => (
          <li
            key={p.entry_id}
            data-testid="part"
            className="flex items-center justify-between gap-2 border-t border-base-300"
          >
            <span className="min-w-0 py-1">
              {p.count > 1 && `${p.count} × `}
              {p.what}
              {p.price !== undefined && (
                <span className="font-mono text-quiet"> {money(p.price * p.count, currency)}</span>
              )}
            </span>
            {job.state === "planned" && (
              <Button kind="quiet" may="strikeOut" className="px-2 text-note" onClick={() => setWrong(p)}>
                Void
              </Button>
            )}
          </li>
        ))}
      </ul>
      {wrong && <StrikePart part={wrong} close={() => setWrong(null)} />}
    </div>
  );
}

function StrikePart({ part, close }: { part: JobPartRow; close: () => void }) {
  const [reason, setReason] = useState("");
  const [fault, setFault] = useState<string>();
  const strike = useStriking({ topic: "job" });
  return (
    <FormDialog
      title={`Void: ${part.what}`}
      action="Void"
      error={null}
      close={close}
      send={() => {
        const wrong = reasonFault(reason);
        setFault(wrong);
        if (wrong) return;
        strike(part.entry_id, part.what, reason);
        close();
      }}
    >
      <p>It stays in the history with the reason, and off the bill.</p>
      <Field label="What was wrong" fault={fault}>
        {(a) => (
          <Input {...a} name="strike" maxLength={300} value={reason} onChange={(e) => setReason(e.target.value)} />
        )}
      </Field>
    </FormDialog>
  );
}
