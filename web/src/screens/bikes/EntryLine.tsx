import { useQuery } from "@tanstack/react-query";
import type { LedgerEntry } from "../../api/client";
import { rulesOptions } from "../../api/queries";
import { useDistance } from "../../ui/distance";
import { digits, whole } from "../../ui/format";
import { money } from "../../ui/money";
import { rain as rainWords } from "../../ui/units";
import { factWords, mixLine } from "../../words/bikes";
import { routeWords } from "../../words/cleaning";
import { eventName, messageWords } from "../../words/due";
import { partWords } from "../../words/fitting";
import { useTaskTitle } from "../due/useTaskTitle";
import { FindingName } from "../jobs/JobWords";

/** What an entry of the history says, in a line. */
export function EntryLine({ entry: e }: { entry: LedgerEntry }) {
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
    case "countersigned":
      return <>Signed: the verdict of an apprentice's reading</>;
    case "job-signature-asked":
      return <>Asked for a mechanic's signature</>;
    case "job-paid":
      return <>{e.became === "unpaid" ? "Not paid after all" : "Paid"}</>;
    case "customer-merged":
      return null; // it stands with the customer
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
