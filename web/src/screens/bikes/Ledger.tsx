import { useInfiniteQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import type { LedgerEntry, Measurement } from "../../api/client";
import { ledgerOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Input, Table } from "../../ui/controls";
import { FormDialog } from "../../ui/FormDialog";
import { dayAndTime, percent, shortDay } from "../../ui/format";
import { Failure, Field, Waiting } from "../../ui/parts";
import { read } from "../../ui/units";
import { checkWords } from "../../words/fitting";
import { findingWords, lookWords, measurementLine, reasonWords, verdictWords, wearLine } from "../../words/wear";
import { EntryLine } from "./EntryLine";
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
            <Button may="strikeOut" className="self-start" onClick={strike}>
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
    <FormDialog
      title={entry.measurement ? "Void this reading?" : "Void this entry?"}
      action="Void"
      close={close}
      send={submit}
    >
      <p>
        {shortDay(entry.happened_at)}, {entry.by}:{" "}
        {entry.measurement ? measurementLine(entry.measurement) : <EntryLine entry={entry} />}. It stays visible, with
        the reason, and counts no more.
      </p>
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
    </FormDialog>
  );
}
