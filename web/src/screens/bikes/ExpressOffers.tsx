import type { CleaningPlan } from "../../api/client";
import { type Answered, Asked } from "../../ui/answer";
import { routeWords } from "../../words/cleaning";
import { materialWords } from "../../words/work";
import { quoteWords } from "../jobs/jobs";
import { minutes } from "./cleaning";

/** What can be done at the counter, with a price that can be said on the phone; nothing before somebody looked. */
export function ExpressOffers({ of }: { of: Answered<CleaningPlan> }) {
  return (
    <Asked of={of} words="Working out the price…">
      {({ express = [] }) => (
        <section className="rounded-box border-2 border-base-300 p-3" aria-label="Express" data-testid="express">
          {express.length === 0 ? (
            <p className="font-semibold text-due-ink">
              Nothing that this bike needs can be done at the counter: book it in without express.
            </p>
          ) : (
            <>
              <p className="text-note text-quiet">No wash; a short look, brakes and axles at the end; blown dry.</p>
              <ul className="mt-1">
                {express.map((o) => (
                  <Offer key={o.route} offer={o} />
                ))}
              </ul>
            </>
          )}
        </section>
      )}
    </Asked>
  );
}

function Offer({ offer: o }: { offer: NonNullable<CleaningPlan["express"]>[number] }) {
  return (
    <li className="border-t border-base-300 py-1.5 first:border-t-0">
      <p className="flex flex-wrap items-baseline justify-between gap-x-4">
        <b>{routeWords[o.route].name}</b>
        <span className="font-mono text-lg font-semibold">{quoteWords(o.quote)}</span>
      </p>
      <p className={`text-note ${o.fits ? "text-quiet" : "font-semibold text-due-ink"}`}>
        {minutes(o.hands_min)} by hand, {minutes(o.ready_min)} from door to door
        {!o.fits && ": too long to be called express"}
        {o.quote.unpriced.length > 0 &&
          `; not priced: ${o.quote.unpriced.map((u) => materialWords(u).toLowerCase()).join(", ")}`}
      </p>
    </li>
  );
}
