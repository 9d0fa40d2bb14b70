import { useState } from "react";
import type { Intake, Wanted } from "../../api/client";
import { wantedQuestion } from "../../api/queries";
import { Asked, useAnswer } from "../../ui/answer";
import { Button } from "../../ui/controls";
import { whenWords } from "../../ui/format";
import { now } from "../../ui/shop";
import { WhenField } from "../../ui/WhenField";
import { momentOf, readWhen, typedWhen } from "../../ui/when";
import { reachWords, routeWords, whyWords } from "../../words/cleaning";
import { familyWords } from "../../words/work";
import { quoteWords } from "../jobs/jobs";
import type { Coming } from "./cleaning";

type Choice = Wanted["choices"][number];

type Props = {
  tag: string;
  /** What was seen so far; null until somebody looked. */
  intake: Intake | null;
  /** Promises it: for when, by which route and with what. */
  promise: (part: Coming) => void;
};

/** When the bike could be ridden, by each route and lubricant: asked by when it is wanted, here or on the phone. */
export function WantedBy({ tag, intake, promise }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <section aria-label="Wanted by" className="flex flex-col gap-2">
      <Button
        kind="quiet"
        className="-ml-4 self-start text-note"
        aria-expanded={open}
        disabled={!intake}
        onClick={() => setOpen(!open)}
      >
        {open ? "Close the comparison" : "When could it be ridden?"}
      </Button>
      {open && intake && <Comparison tag={tag} intake={intake} promise={promise} />}
    </section>
  );
}

function Comparison({ tag, intake, promise }: Props & { intake: Intake }) {
  const [text, setText] = useState("");
  const at = momentOf(text);
  const read = readWhen(text, "moment");
  const unread = text.trim() && read.is === "none" ? read.why : undefined;
  const { reports: _, wants: __, promised_at: ___, route: ____, ...seen } = intake;
  const ways = useAnswer(wantedQuestion(tag, { ...seen, ...(at ? { wanted_at: at } : {}) } as Intake));
  const closes = (ways.answer ?? ways.before)?.closes_at;
  return (
    <>
      <WhenField label="Wanted by" ask="moment" name="wanted" value={text} set={setText} fault={unread} />
      <span className="flex flex-wrap gap-2">
        <Button onClick={() => setText(typedWhen(new Date(now() + 2 * 3_600_000).toISOString()))}>In two hours</Button>
        {closes && <Button onClick={() => setText(typedWhen(closes))}>By closing, {whenWords(closes)}</Button>}
      </span>
      <Asked of={ways} words="Asking the day for room…">
        {(w, old) => <Ways wanted={w} by={at} old={old} promise={promise} />}
      </Asked>
    </>
  );
}

function Ways(props: { wanted: Wanted; by: string | undefined; old: boolean; promise: (part: Coming) => void }) {
  const { wanted: w, by, old, promise } = props;
  const [all, setAll] = useState(false);
  const right = w.choices.find((c) => c.recommended && c.usual);
  const fits = w.choices.filter((c) => c.fits);
  // With the usual lubricant first: another is a change that its owner must want.
  const shown = all ? w.choices : w.choices.filter((c) => c.usual || (by !== undefined && c === fits[0]));
  return (
    <div data-testid="wanted" className="flex flex-col gap-2">
      {by && fits.length === 0 && (
        <p className="font-semibold text-error">Nothing would be ready by then: the soonest stands first.</p>
      )}
      <ul className="text-note">
        {shown.map((c) => (
          <Way key={c.route + c.lubricant} choice={c} right={right} by={by} old={old} promise={promise} />
        ))}
      </ul>
      {w.choices.length > shown.length && (
        <Button kind="quiet" className="-ml-4 self-start text-note" onClick={() => setAll(true)}>
          With other lubricants, too
        </Button>
      )}
      {w.choices.length === 0 && <p>Nothing can be done with it as things are.</p>}
    </div>
  );
}

function Way(props: {
  choice: Choice;
  right: Choice | undefined;
  by: string | undefined;
  old: boolean;
  promise: (part: Coming) => void;
}) {
  const { choice: c, right, by, old, promise } = props;
  const more = c.misses.filter((m) => !right?.misses.includes(m));
  const gives = [
    more.length > 0 ? reachWords(more, []) : "",
    c.against.length > 0 ? `${upper(c.against.map(whyWords).join("; "))}.` : "",
  ].filter(Boolean);
  return (
    <li className={`border-t border-base-300 py-2 first:border-t-0 ${by && !c.fits ? "text-quiet" : ""}`}>
      <p className="flex flex-wrap items-baseline justify-between gap-x-3">
        <b>
          {routeWords[c.route].name}, {familyWords[c.lubricant].toLowerCase()}
        </b>
        <span className="font-mono">{quoteWords(c.quote)}</span>
      </p>
      <p>
        {c.ridden_at ? (
          <>
            ridden <b>{whenWords(c.ridden_at)}</b>
            {by && !c.fits && ": not by then"}
          </>
        ) : (
          "no room for it in the days ahead"
        )}
        {c === right && ", the right one for it"}
      </p>
      {c !== right && gives.length > 0 && <p className="text-quiet">{gives.join(" ")}</p>}
      {c.ridden_at && (!by || c.fits) && (
        <Button
          className="mt-1"
          disabled={old}
          aria-label={`Promise that: ${routeWords[c.route].name}, ${familyWords[c.lubricant].toLowerCase()}`}
          onClick={() =>
            promise({
              route: c.route,
              lubricant: c.lubricant,
              promised: typedWhen(c.ridden_at ?? ""),
            })
          }
        >
          Promise that
        </Button>
      )}
    </li>
  );
}

const upper = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);
