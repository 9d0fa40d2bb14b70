import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, ask, type Job } from "../../api/client";
import { bikeOptions, wearTrackOptions } from "../../api/queries";
import { useJob } from "../../outbox/job";
import { useUnsentOfJob } from "../../outbox/queue";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button } from "../../ui/controls";
import { useDistance } from "../../ui/distance";
import { Fetched, WhenConnected } from "../../ui/Fetched";
import { about, dayAndTime } from "../../ui/format";
import { useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { money } from "../../ui/money";
import { Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { materialAmount } from "../../ui/units";
import { phaseToldWords } from "../../words/cleaning";
import { trackSentence, verdictSentence } from "../../words/wear";
import { familyWords, materialWords } from "../../words/work";
import { minutes } from "../bikes/cleaning";
import { aftercare } from "./customer";
import { FindingName } from "./JobWords";
import { causesFound, lineWords, quoteWords } from "./jobs";

export function ReportPage() {
  const { id = "" } = useParams();
  const job = useJob(id);
  return (
    <Fetched query={job} what="the report">
      {(j) => <ReportView job={j} />}
    </Fetched>
  );
}

const lower = (s: string) => s.charAt(0).toLowerCase() + s.slice(1);

/** The job in its owner's words: found, done, used, what comes next, what to do after each ride. For print too. */
export function ReportView({ job }: { job: Job }) {
  const shop = useSession().shop;
  const chain = useQuery(bikeOptions(job.tag)).data?.last?.wear;
  const track = useQuery(wearTrackOptions(job.tag)).data;
  const d = useDistance();
  const done = job.told;
  const unsent = useUnsentOfJob(job.id).length > 0;
  const p = job.plan;
  const bill = job.bill;
  return (
    <div className="mx-auto flex max-w-[760px] flex-col gap-4 p-3 sm:p-6 print:max-w-none print:p-0">
      <div className="no-print flex flex-wrap gap-2">
        <Button kind="main" onClick={() => window.print()}>
          Print
        </Button>
        <ButtonLink to={`/bikes/${job.tag}`}>The bike</ButtonLink>
        {job.state === "planned" && <ButtonLink to={`/jobs/${job.id}`}>Back to the stand</ButtonLink>}
      </div>
      <article className="card card-border bg-base-100 flex min-w-0 flex-col gap-4 p-4 wrap-anywhere sm:p-6 print:border-0">
        <header className="flex flex-wrap items-center justify-between gap-3">
          <div>
            <p className="text-fine font-semibold text-quiet">{shop.name}</p>
            <Heading className="text-2xl leading-tight">{job.bike}</Heading>
            <p className="text-quiet">
              {job.customer.name}
              {job.closed_at && `, ${dayAndTime(job.closed_at)}`}
            </p>
          </div>
          <Tag tag={job.tag} size="middle" />
        </header>
        {job.state === "cancelled" && (
          <p className="border-l-4 border-warning pl-3">The job was cancelled: {job.cancelled}</p>
        )}
        <Part title="What we found">
          <ul className="list-disc pl-5">
            {chain && <li>{verdictSentence(chain, "owner")}</li>}
            {causesFound(job).map((c) => (
              <li key={c}>{c}</li>
            ))}
            {job.findings.map((f) => (
              <li key={f.id}>
                {f.code === "other" ? f.note : <FindingName code={f.code} />}
                {f.place && `, ${f.place}`}
                {f.resolution === "fixed" ? ": put right" : f.severity === "soon" ? ": to be seen to soon" : ""}
                {f.resolution === "owner-told" ? ": do not ride it before it is put right" : ""}
              </li>
            ))}
            {!chain && job.findings.length === 0 && causesFound(job).length === 0 && (
              <li>{job.looked_over ? "Nothing that needs attention." : "It was not looked over yet."}</li>
            )}
          </ul>
        </Part>
        <Part title="What we did">
          {unsent ? (
            <WhenConnected what="what was done, in the customer's words" />
          ) : done.length === 0 ? (
            <p className="text-quiet">Nothing yet.</p>
          ) : (
            <ul className="list-disc pl-5">
              {done.map((d) => (
                <li key={d}>{d}</li>
              ))}
            </ul>
          )}
        </Part>
        {hands(job).length > 0 && (
          <Part title="Who did it">
            <ul className="list-disc pl-5">
              {hands(job).map((h) => (
                <li key={h.title}>
                  {h.title}: {h.people.join(", ")}
                  {h.minutes > 0 && `, ${minutes(h.minutes)}`}
                </li>
              ))}
            </ul>
          </Part>
        )}
        {(job.parts.length > 0 || job.used.some((u) => u.unit !== "piece")) && (
          <Part title="What we used">
            {job.parts.length > 0 && (
              <p>{job.parts.map((u) => (u.count > 1 ? `${u.count} × ${u.what}` : u.what)).join(", ")}</p>
            )}
            <p>
              {job.used
                .filter((u) => u.unit !== "piece")
                .map((u) => `${u.name} ${materialAmount(u.amount, u.unit)}`)
                .join(", ")}
            </p>
          </Part>
        )}
        {p && (
          <Part title="What comes next">
            <p>
              It runs on{" "}
              {p.lubricant
                ? familyWords[p.lubricant.family].toLowerCase()
                : familyWords[p.lubricant_next].toLowerCase()}
              {p.lubricant_next === "drip-wax" && ": ride it tomorrow at the earliest"}
              {p.lubricant_next === "immersion-wax" && ": top up with drip wax between visits"}. Lubricate it again
              after about {about(d.of(p.relubricate_km))} {d.unit}, and after every soaking ride.
              {track?.forecast && ` The chain: ${lower(trackSentence(track, d))}`}
            </p>
          </Part>
        )}
        {p && (
          <Part title="After each ride">
            <ul className="list-disc pl-5">
              {aftercare(p.lubricant_next).map((a) => (
                <li key={a}>{a}</li>
              ))}
            </ul>
          </Part>
        )}
        {bill && (
          <Part title="Price">
            <ul>
              {bill.lines.map((l) => (
                <li key={l.kind + l.code} className="flex justify-between gap-3 border-t border-base-300 py-1">
                  <span>{lineWords(l)}</span>
                  <span className="font-mono">{money(Math.round(l.amount), bill.currency)}</span>
                </li>
              ))}
              {bill.unpriced.length > 0 && !job.closed_at && (
                <li className="border-t border-base-300 py-1 text-quiet">
                  On top: {bill.unpriced.map((u) => materialWords(u).toLowerCase()).join(", ")}
                </li>
              )}
              <li className="flex justify-between gap-3 border-t-2 border-base-content py-1 font-semibold">
                <span>{job.closed_at ? "Total" : "Quoted"}</span>
                <span className="font-mono">
                  {job.closed_at || job.parts.length > 0 ? money(bill.total, bill.currency) : quoteWords(bill)}
                </span>
              </li>
            </ul>
          </Part>
        )}
        {(job.paid || job.unpaid) && <Payment job={job} />}
        {job.closed_by && job.state === "handed-back" && (
          <p className="text-note text-quiet">
            Checked and handed back by {job.closed_by}
            {job.second_by && `, signed second by ${job.second_by}`}.
          </p>
        )}
      </article>
    </div>
  );
}

/** Whether what it came to is paid, and what settles that. */
function Payment({ job }: { job: Job }) {
  const settle = useWrite(
    (paid: boolean, key) =>
      ask(
        api.PUT("/jobs/{job}/payment", {
          params: { path: { job: job.id }, header: { "Idempotency-Key": key } },
          body: { version: job.version, paid },
        }),
      ),
    [{ topic: "job", tag: job.tag }],
  );
  return (
    <div className="flex flex-wrap items-center gap-3" data-testid="payment">
      <p>{job.paid ? `Paid ${dayAndTime(job.paid.at)}, taken by ${job.paid.by}.` : "Not paid yet."}</p>
      <span className="no-print flex gap-2">
        <Button
          may="settlePayment"
          kind={job.paid ? "quiet" : "main"}
          disabled={settle.isPending}
          onClick={() => settle.mutate(!job.paid)}
        >
          {job.paid ? "Not paid after all" : "It is paid"}
        </Button>
      </span>
      {settle.isError && <Failure error={settle.error} />}
    </div>
  );
}

/** Who did what, by blocks in their owner's words, and for how long where that is known. */
function hands(job: Job) {
  const did = new Map<string, { title: string; people: Set<string>; seconds: number }>();
  for (const b of job.blocks) {
    const done = job.step_list.filter((s) => b.steps.includes(s.code) && s.state === "done");
    const phase = done[0]?.phase;
    if (!phase) continue;
    const title = phaseToldWords[phase] ?? b.title;
    const same = did.get(title) ?? { title, people: new Set(), seconds: 0 };
    for (const s of done) {
      if (s.by) same.people.add(s.by);
      same.seconds += s.worked_s ?? 0;
    }
    did.set(title, same);
  }
  return [...did.values()].map((d) => ({ ...d, people: [...d.people], minutes: Math.round(d.seconds / 60) }));
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section>
      <h2 className="text-lg">{title}</h2>
      {children}
    </section>
  );
}
