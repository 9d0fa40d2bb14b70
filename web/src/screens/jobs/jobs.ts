import type { Job, Quote, StepAmount, StepView } from "../../api/client";
import { money } from "../../ui/money";
import { materialAmount } from "../../ui/units";
import { routeWords } from "../../words/cleaning";
import { materialWords } from "../../words/work";
import { minutes } from "../bikes/cleaning";

/** 167 + 83 mL water, 4.6 mL, 1. */
export function amountWords(a: StepAmount): string {
  const own = materialAmount(a.amount, a.unit);
  return a.water_ml ? `${own} + ${materialAmount(a.water_ml, "ml")} water` : own;
}

/** The price as it is told: one amount, or from one to the other. */
export function quoteWords(q: Quote): string {
  return q.high === undefined
    ? money(q.total, q.currency)
    : `${money(q.total, q.currency)} to ${money(q.high, q.currency)}`;
}

/** A line of a quote in words. */
export function lineWords(l: Quote["lines"][number]): string {
  switch (l.kind) {
    case "labour":
      return l.code in routeWords ? `Work, ${minutes(l.count)}` : `Fitting ${materialWords(l.code).toLowerCase()}`;
    case "part":
      return `${l.count > 1 ? `${l.count} × ` : ""}${materialWords(l.code)}`;
    case "fluid":
      return materialWords(l.code);
    case "waste":
      return "Share of the waste";
    case "tax":
      return `Tax, ${l.count} %`;
    case "tax-inside":
      return `of it tax, ${l.count} %`;
  }
}

/** Hours and minutes until it is ready. */
export function hours(min: number): string {
  if (min < 90) return `${min} min`;
  const h = Math.floor(min / 60);
  const m = min % 60;
  return m === 0 ? `${h} h` : `${h} h ${m} min`;
}

/** The step that is looked at: the one that was picked, or the one for whoever is signed in. */
export function stepShown(job: Job, picked: string | null): StepView | undefined {
  return job.step_list.find((s) => s.code === (picked ?? job.current));
}

/** The cautions of a step that whoever is signed in has not tapped today. */
export const unseen = (job: Job, step: StepView, tapped: readonly string[]) =>
  step.cautions.filter((c) => !job.seen.includes(c) && !tapped.includes(c));

/** What the checks of complaints came to: what the owner said, and which cause it was. */
export function causesFound(job: Job): string[] {
  return job.step_list.flatMap((s) => {
    const cause = s.state === "done" ? s.causes?.find((c) => c.code === s.reason) : undefined;
    return cause ? [`${s.title}: ${cause.says.charAt(0).toLowerCase()}${cause.says.slice(1)}`] : [];
  });
}
