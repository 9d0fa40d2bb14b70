import type { Job, JobPlan, Quote, StepAmount, StepView } from "../../api/client";
import { money } from "../../ui/money";
import { materialAmount } from "../../ui/units";
import { minutes, routeWords } from "../bikes/cleaning";
import { doneOf } from "./customer";

// The words and reckoning-free arrangement of a job.

const materials: Record<string, string> = {
  shampoo: "Bike shampoo",
  degreaser: "Degreaser",
  "film-solvent": "Film solvent",
  alcohol: "Alcohol",
  "citric-acid": "Citric acid",
  bicarbonate: "Bicarbonate",
  oil: "Chain oil",
  "drip-wax": "Drip wax",
  "immersion-wax": "Immersion wax",
  "displacing-spray": "Displacing spray",
  grease: "Grease",
  threadlocker: "Threadlocker",
  rags: "Rags",
  gloves: "Gloves",
  "joining-link": "Joining link",
  protectant: "Frame protectant",
  chain: "New chain",
  sprockets: "Cassette",
};

export const materialWords = (kind: string) => materials[kind] ?? kind.replaceAll("-", " ");
export const materialKinds = Object.keys(materials).filter(
  (k) => k !== "joining-link" && k !== "chain" && k !== "sprockets",
);

/** 167 + 83 mL water, 4.6 mL, 1. */
export function amountWords(a: StepAmount): string {
  const own = materialAmount(a.amount, a.unit);
  return a.water_ml ? `${own} + ${materialAmount(a.water_ml, "ml")} water` : own;
}

export const familyWords: Record<string, string> = {
  "wet-oil": "Wet oil",
  "dry-oil": "Dry oil",
  "all-weather": "All-weather oil",
  "drip-wax": "Drip wax",
  "immersion-wax": "Immersion wax",
  oil: "Oil",
};

const lubeWhys: Record<string, string> = {
  "suits-the-rides": "suits how it is ridden",
  "stays-clean": "stays clean",
  "longest-chain-life": "longest chain life",
  "stays-with-its-family": "it runs on it now",
  "cheapest-over-distance": "cheapest over the distance",
  "washes-off-in-rain": "washes off in rain",
  "gathers-dirt": "gathers dirt",
  "weak-against-rust-here": "weak against rust in this air",
  "needs-an-owner-who-dries-it": "needs a customer who dries it",
  "not-dry-in-time": "not dry before the next ride",
  "needs-bare-metal": "needs the chain bare first",
  "cannot-be-bared": "the chain cannot be taken off",
};
export const lubeWhy = (code: string) => lubeWhys[code] ?? code.replaceAll("-", " ");

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
      return `${l.count > 1 ? `${l.count} × ` : ""}${materials[l.code] ?? l.code}`;
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

export const routeName = (route: JobPlan["route"]) => routeWords[route].name;

export const severityWords = { note: "Noted", soon: "Soon", stop: "Holds the bike" } as const;

/** What the checks of complaints came to: what the owner said, and which cause it was. */
export function causesFound(job: Job): string[] {
  return job.step_list.flatMap((s) => {
    const cause = s.state === "done" ? s.causes?.find((c) => c.code === s.reason) : undefined;
    return cause ? [`${s.title}: ${cause.says.charAt(0).toLowerCase()}${cause.says.slice(1)}`] : [];
  });
}

/** The steps at which a bike is looked over. */
const looks = ["look-teeth", "look-wet", "final-look"];

/** Whether somebody looked the bike over in a job, so that it can be said that nothing was found. */
export const lookedOver = (job: Job): boolean =>
  job.step_list.some((s) => looks.includes(s.code) && s.state === "done");

/** What was done, in an owner's words, by what a job went through. */
export const doneWords = (job: Job): string[] =>
  doneOf(job.step_list.filter((s) => s.state === "done").map((s) => s.code));
