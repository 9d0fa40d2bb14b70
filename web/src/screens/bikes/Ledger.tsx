import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import type { LedgerEntry, Measurement } from "../../api/client";
import { ledgerOptions, rulesOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Input, Table } from "../../ui/controls";
import { useDistance } from "../../ui/distance";
import { dayAndTime, digits, percent, shortDay, whole } from "../../ui/format";
import { money } from "../../ui/money";
import { Dialog, Failure, Field, Waiting } from "../../ui/parts";
import { rain as rainWords, read } from "../../ui/units";
import { factWords, mixLine } from "../../words/bikes";
import { routeWords } from "../../words/cleaning";
import { eventName, messageWords } from "../../words/due";
import { checkWords, partWords } from "../../words/fitting";
import { findingWords, lookWords, measurementLine, reasonWords, verdictWords, wearLine } from "../../words/wear";
import { useTaskTitle } from "../due/useTaskTitle";
import { FindingName } from "../jobs/JobWords";
import { reasonFault, useStriking } from "./striking";

/** Everything that happened to a bike, newest first. Nothing leaves it: wrong entries are struck out. */
export function Ledger({ tag }: { tag: string }) {
  const ledger = useInfiniteQuery(ledgerOptions(tag));
  const [open, setOpen] = useState<string | null>(null);
  const [striking, setStriking] = useState<LedgerEntry | null>(null);
  const entries = ledger.data?.pages.flatMap((p) => p.entries) ?? [];
  // What was written after the ledger was first shown is marked as it arrives.
  const seen = useRef<number | null>(null);
  if (seen.current === null && ledger.data) seen.current = Math.max(0, ...entries.map((e) => e.number));
  return (
    <section className="card card-border bg-base-100" aria-label="History">
      <h2 className="text-fine font-semibold text-quiet px-4 pt-3 pb-1">History</h2>
      {ledger.isPending && <Waiting what="the history" />}
      {ledger.isError && (
        <div className="p-3">
          <Failure error={ledger.error} again={() => ledger.refetch()} />
        </div>
      )}
      <ul>
        {entries.map((e) => (
          <Entry
            key={e.id}
            entry={e}
            arrived={e.number > (seen.current ?? Number.POSITIVE_INFINITY)}
            open={open === e.id}
            toggle={() => setOpen(open === e.id ? null : e.id)}
            strike={() => setStriking(e)}
          />
        ))}
      </ul>
      {ledger.hasNextPage && (
        <div className="border-t border-base-300 p-3">
          <Button onClick={() => ledger.fetchNextPage()} disabled={ledger.isFetchingNextPage}>
            Show earlier
          </Button>
        </div>
      )}
      {striking && <StrikeOut tag={tag} entry={striking} close={() => setStriking(null)} />}
    </section>
  );
}

type EntryProps = { entry: LedgerEntry; arrived: boolean; open: boolean; toggle: () => void; strike: () => void };

function Entry({ entry: e, arrived, open, toggle, strike }: EntryProps) {
  const m = e.measurement;
  return (
    <li
      className="border-t border-base-300"
      data-testid="entry"
      data-kind={e.kind}
      data-struck={e.struck ? "yes" : "no"}
    >
      <Button
        onClick={toggle}
        aria-expanded={open}
        kind="row"
        className={`${arrived ? "arrived" : ""} grid grid-cols-[auto_1fr] gap-x-3 rounded-none sm:grid-cols-[92px_70px_minmax(0,1fr)_auto]`}
      >
        <time dateTime={e.happened_at} className="font-mono text-fine text-quiet">
          {shortDay(e.happened_at)}
        </time>
        <span className="truncate text-quiet max-sm:text-right">{e.by.split(" ")[0]}</span>
        <span className="min-w-0 wrap-anywhere max-sm:col-span-2">
          {m ? (
            <>
              {e.struck ? <s className="text-quiet">{measurementLine(m)}</s> : measurementLine(m)}
              {m.findings.length > 0 && !e.struck && (
                <span className="text-quiet">, {m.findings.map(findingWords).join(", ").toLowerCase()}</span>
              )}
              {e.struck && <span> voided: {e.struck.reason}</span>}
            </>
          ) : (
            <EntryLine entry={e} />
          )}
        </span>
        <span className="text-note font-semibold max-sm:col-span-2">
          {m && !e.struck && verdictWords[m.wear.verdict]}
        </span>
      </Button>
      {open && (
        <div className="flex flex-col gap-2 bg-base-200 px-4 py-3 text-note">
          {m && <MeasurementDetail m={m} />}
          {e.broken !== undefined && (
            <p>
              What is wrong: {e.broken}. It came with a passport from another shop, or from an older version. Nothing is
              worked out from it; void it and note what really happened.
            </p>
          )}
          {e.kind === "replacement" && (
            <p>Checked: {(e.checks ?? []).map((c) => checkWords[c].name.toLowerCase()).join(", ")}.</p>
          )}
          {e.job && (
            <ButtonLink to={`/jobs/${e.job}`} className="self-start">
              Open the job
            </ButtonLink>
          )}
          <p className="text-fine text-quiet">
            {dayAndTime(e.happened_at)}, {e.by}, {e.device}
            {e.written_at.slice(0, 16) !== e.happened_at.slice(0, 16) && `; written ${dayAndTime(e.written_at)}`}
            {e.struck && `. Voided ${dayAndTime(e.struck.at)} by ${e.struck.by}.`}
          </p>
          {canBeStruck(e) && (
            <Button className="self-start" onClick={strike}>
              Void
            </Button>
          )}
        </div>
      )}
    </li>
  );
}

const canBeStruck = (e: LedgerEntry) =>
  !e.struck &&
  ((e.broken !== undefined && e.kind !== "strike-out") ||
    ["measurement", "odometer", "chain-fitted", "chain-opened", "part-fitted", "replacement", "ride"].includes(e.kind));

function EntryLine({ entry: e }: { entry: LedgerEntry }) {
  const d = useDistance();
  const title = useTaskTitle();
  const currency = useQuery(rulesOptions).data?.rules.currency ?? "EUR";
  const agreed = e.agreed && <>, {money(e.agreed.price, currency)} agreed</>;
  if (e.broken !== undefined)
    return (
      <Standing entry={e}>
        <span className="font-semibold text-error">This entry cannot be read and does not count</span>
      </Standing>
    );
  switch (e.kind) {
    case "bike-added":
      return <>Came into care, tag given</>;
    case "bike-changed":
      return <>Facts changed: {(e.changed ?? []).map((c) => factWords[c] ?? c).join(", ")}</>;
    case "bike-archived":
      return <>Archived</>;
    case "bike-restored":
      return <>Taken out of the archive</>;
    case "odometer":
      return (
        <Standing entry={e}>
          Odometer{" "}
          <span className="font-mono">
            {whole(d.of(e.odometer_km ?? 0))} {d.unit}
          </span>
          {e.new_computer && ", on a new computer"}
          {e.mix && `, since then ${mixLine(e.mix)}`}
        </Standing>
      );
    case "chain-fitted":
      return (
        <Standing entry={e}>
          Chain fitted{e.what && `: ${e.what}`}
          {e.links && `, ${e.links} links`}
          {e.joining_link &&
            `, closed with ${e.joining_link.again ? "the joining link it had" : e.joining_link.what || "a new joining link"}`}
        </Standing>
      );
    case "strike-out":
      return <span className="text-quiet">Voided an entry: {e.reason}</span>;
    case "part-fitted":
      return (
        <Standing entry={e}>
          {partWords[e.part ?? ""]} fitted{e.what && `: ${e.what}`}
        </Standing>
      );
    case "chain-opened":
      return (
        <Standing entry={e}>
          Chain opened{e.why && ` (${e.why})`}, closed with{" "}
          {e.joining_link
            ? e.joining_link.again
              ? "the same joining link"
              : e.joining_link.what || "a new joining link"
            : "a pin"}
        </Standing>
      );
    case "replacement":
      return (
        <Standing entry={e}>
          Chain replaced
          {e.parts?.length ? `, with ${e.parts.map((p) => (partWords[p] ?? p).toLowerCase()).join(" and ")}` : ""};{" "}
          {e.checks?.length ?? 0} checks made
          {e.ride_test === "no-skip" && ", ride-tested: nothing skips"}
          {e.ride_test === "skips" && ", ride-tested: it skipped, so cassette too"}
          {e.note && <span className="text-quiet">. {e.note}</span>}
        </Standing>
      );
    case "job-arrived":
      return <>Booked in</>;
    case "job-changed":
      return <>What was seen or promised changed</>;
    case "job-planned":
      return (
        <>
          Planned{e.route && `: ${routeWords[e.route].name.toLowerCase()}`}
          {agreed}
          {e.reason && <span className="text-quiet">, {e.reason}</span>}
        </>
      );
    case "job-finding":
      return (
        <>
          Found: {e.finding && <FindingName code={e.finding.code} />}
          {e.finding?.place && `, ${e.finding.place}`}
          {e.finding?.severity === "stop" && <b className="text-error"> holds the bike</b>}
        </>
      );
    case "job-finding-resolved":
      return (
        <>
          <FindingName code={e.what ?? ""} />: {e.reason === "fixed" ? "fixed" : "customer told, leaves unridden"}
        </>
      );
    case "job-note":
      return <>{e.note}</>;
    case "task-done":
      return (
        <>
          Done: {title(e.task ?? "").toLowerCase()}
          {e.note && `, ${e.note}`}
        </>
      );
    case "bike-event":
      return (
        <Standing entry={e}>
          {eventName(e.event ?? "")}
          {e.by_owner && ", reported by the customer"}
          {e.note && <span className="text-quiet">. {e.note}</span>}
        </Standing>
      );
    case "message":
      return <>Message to the customer: {messageWords[(e.became ?? "") as keyof typeof messageWords]?.toLowerCase()}</>;
    case "link":
      return (
        <>
          Secret link {e.became === "withdrawn" ? "withdrawn" : "made"}
          {e.what && `: ${e.what}`}
        </>
      );
    case "owner-report":
      return <>Customer report: {e.became === "confirmed" ? "taken into the record" : "set aside"}</>;
    case "passport":
      return <>Taken over by its passport{e.what && `, from ${e.what}`}</>;
    case "ride":
      return <Ride entry={e} />;
    case "job-part":
      return (
        <Standing entry={e}>
          Part used: {(e.count ?? 1) > 1 && `${e.count} × `}
          {e.what}
        </Standing>
      );
    case "job-photo":
      return <>Photo taken</>;
    case "job-handed-back":
      return (
        <>
          Handed back{e.route && ` after ${routeWords[e.route].name.toLowerCase()}`}
          {agreed}
        </>
      );
    case "job-reopened":
      return <>Taken back: the job was not to be cancelled</>;
    case "job-cancelled":
      return <>Job cancelled: {e.reason}</>;
    case "measurement":
    case "instrument-added":
    case "instrument-changed":
    case "instrument-retired":
    case "instrument-restored":
    case "zero-checked":
      return null; // a measurement has its own line, and a tool's entries stand with the tool
  }
}

/** A fact that may have been struck out. */
function Standing({ entry, children }: { entry: LedgerEntry; children: React.ReactNode }) {
  if (!entry.struck) return <>{children}</>;
  return (
    <>
      <s className="text-quiet">{children}</s> voided: {entry.struck.reason}
    </>
  );
}

function MeasurementDetail({ m }: { m: Measurement }) {
  return (
    <>
      <Table className="max-w-xl font-mono text-note">
        <thead className="text-left font-sans text-fine text-quiet">
          <tr>
            <th className="font-semibold">Place</th>
            <th className="font-semibold">Read</th>
            <th className="font-semibold">Wear</th>
          </tr>
        </thead>
        <tbody>
          {m.readings.map((r) => (
            <tr key={r.place}>
              <td>{r.place}</td>
              <td>
                {r.text ||
                  (r.look && lookWords[r.look]) ||
                  r.marks?.map((k) => `${k.mark_pct} ${k.drops_in ? "in" : "out"}`).join(", ")}
                {r.length_mm !== undefined && r.text && r.text !== read(r.length_mm) && (
                  <span className="text-quiet"> = {read(r.length_mm)}</span>
                )}
              </td>
              <td>{r.elongation_pct === undefined ? "" : `${percent(r.elongation_pct)} %`}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      <p>
        <b>{verdictWords[m.wear.verdict]}.</b> {wearLine(m.wear)}
        {m.links ? ` over ${m.links} links` : ""}. {m.wear.reasons.map(reasonWords).filter(Boolean).join(" ")}
      </p>
      {m.findings.length > 0 && <p>Seen: {m.findings.map(findingWords).join(", ")}</p>}
      {m.note && <p className="break-words whitespace-pre-wrap">Note: {m.note}</p>}
    </>
  );
}

const usualReasons = ["Links miscounted", "Wrong bike", "Tool was not at zero", "Rule slipped"];

function StrikeOut({ tag, entry, close }: { tag: string; entry: LedgerEntry; close: () => void }) {
  const [reason, setReason] = useState("");
  const [fault, setFault] = useState<string>();
  const strike = useStriking({ topic: "bike", tag });
  const submit = () => {
    const wrong = reasonFault(reason);
    setFault(wrong);
    if (wrong) return;
    strike(entry.id, `${shortDay(entry.happened_at)}, ${entry.by}`, reason);
    close();
  };
  return (
    <Dialog title={entry.measurement ? "Void this reading?" : "Void this entry?"} close={close}>
      <p>
        {shortDay(entry.happened_at)}, {entry.by}:{" "}
        {entry.measurement ? measurementLine(entry.measurement) : <EntryLine entry={entry} />}. It stays visible, with
        the reason, and counts no more.
      </p>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          submit();
        }}
      >
        <div className="flex flex-wrap gap-1.5">
          {usualReasons.map((r) => (
            <Button key={r} onClick={() => setReason(r)} className="border-base-300 px-3 font-normal">
              {r}
            </Button>
          ))}
        </div>
        <Field label="What was wrong" fault={fault}>
          {(a) => <Input {...a} value={reason} maxLength={300} onChange={(e) => setReason(e.target.value)} />}
        </Field>
        <div className="flex flex-wrap gap-3">
          <Button type="submit" kind="main">
            Void
          </Button>
          <Button kind="quiet" onClick={close}>
            Cancel
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

function Ride({ entry }: { entry: LedgerEntry }) {
  const d = useDistance();
  const { km, rain_mm: rain = 0 } = entry.ride ?? { km: 0 };
  return (
    <Standing entry={entry}>
      Ride, {digits(d.of(km), 1)} {d.unit}
      {rain > 0 && `, ${rainWords(rain)} of rain`}
    </Standing>
  );
}
