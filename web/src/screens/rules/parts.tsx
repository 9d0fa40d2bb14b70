import type { ReactNode } from "react";
import type { RulesView } from "../../api/client";
import { mixWords } from "../../words/bikes";
import { routeWords } from "../../words/cleaning";
import { titleOf } from "../../words/due";
import { workQuestions } from "../../words/settings";
import { classWords, schoolWords } from "../../words/wear";
import { placeWords } from "../floor/rail";
import { type Draft, factorNames } from "./draft";
import { FloorRules } from "./FloorRules";
import { week } from "./hours";
import { ContactRules, IntervalRules } from "./IntervalRules";
import { Prices, priceWords, setWords } from "./Prices";
import { ReplacingRules, WearKilometre, WearRules } from "./WearRules";
import { SigningOut, WhereRules } from "./WhereRules";
import { CleaningRules, MinutesOfSteps, WorkPrices } from "./WorkRules";

/** What each part of the settings is given. */
export type PartIs = {
  view: RulesView;
  draft: Draft;
  change: (part: Partial<Draft>) => void;
  /** What is wrong at a path of the rules, or beneath it. */
  fault: (path: string) => string | undefined;
};

export type Part = {
  name: string;
  about: string;
  /** The labels that stand in it, by which it is found. */
  finds: (defaults: RulesView["defaults"]) => string[];
  /** What of a draft is typed in it. */
  holds: (draft: Draft) => unknown;
  show: (p: PartIs) => ReactNode;
};

const all = (...of: string[]) => of;
const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);

/** The settings, part by part; each has an address of its own. */
export const parts = {
  wear: {
    name: "Chain wear",
    about: "When a chain is replaced, how it is measured, what a hard kilometre counts for",
    finds: () => [
      ...all("When a chain is worn", "Own wear limits", "Replace at", "Cassette too past", "Why"),
      ...all("Places read round a chain", "What a wear kilometre is", "mid motor, times"),
      ...Object.values(schoolWords).map((s) => s.name),
      ...factorNames.flatMap((n) => (n === "mid_motor" ? [] : mixWords[n])),
      ...Object.values(classWords).map((c) => c.name),
    ],
    holds: (d) => [
      d.wear_school,
      d.wear_places,
      d.factors,
      Object.values(d.classes).map((c) => [c.limit_pct, c.together_pct, c.limit_reason]),
    ],
    show: (p) => (
      <>
        <WearRules {...p} />
        <WearKilometre {...p} />
      </>
    ),
  },
  replacing: {
    name: "Replacing a chain",
    about: "Its length, the cassette with it, joining links, the grease of a new chain",
    finds: () => [
      ...all("How long a chain is", "Cassette, when the chain is at its limit"),
      ...all("A joining link that was opened", "The grease of a new chain"),
    ],
    holds: (d) => [d.length_method, d.sprocket_school, d.link_school, d.grease_school],
    show: (p) => <ReplacingRules {...p} />,
  },
  intervals: {
    name: "Service intervals",
    about: "How often bikes are cleaned, lubricated and checked; tasks of the shop's own",
    finds: (defaults) => [
      ...all("Intervals", "How often a bike is cleaned", "Done in the same visit when due within"),
      ...all("Tasks of the shop's own", "What is done", "Every"),
      ...defaults.tasks.map(titleOf),
    ],
    holds: (d) => d.intervals,
    show: (p) => <IntervalRules {...p} />,
  },
  customers: {
    name: "Contacting customers",
    about: "When drafts go out, how often, what they say",
    finds: () => [
      ...all("Send drafts without a person", "From", "Until", "At most once in", "Closed on, as 2026-12-25"),
      ...all("Closed every", "What is said"),
    ],
    holds: (d) => d.recalls,
    show: (p) => <ContactRules {...p} />,
  },
  day: {
    name: "Hours, places, skills",
    about: "When the shop is open, who does what, how many stands and tubs there are",
    finds: () => [
      ...all("The workshop day", "Own hours, as mon 09:00-13:00; wed off", "Away on, as 2026-12-24"),
      ...Object.entries(placeWords).map(([place, name]) => `${name}${place.endsWith("h") ? "es" : "s"}`),
      ...week.map((d) => `Open on ${d}s`),
      ...all("Washes", "Drivetrains", "Final checks"),
    ],
    holds: (d) => d.floor,
    show: (p) => <FloorRules {...p} />,
  },
  cleaning: {
    name: "Cleaning and lubricating",
    about: "What is cleaned first, with what, how oil goes on",
    finds: () => {
      const { tax_inside: _, ...questions } = workQuestions;
      return ["Washing, cleaning, lubricating", ...Object.values(questions)];
    },
    holds: ({ work }) => Object.entries(work).filter(([name]) => name in workQuestions && name !== "tax_inside"),
    show: (p) => <CleaningRules {...p} />,
  },
  minutes: {
    name: "Minutes of steps",
    about: "How long each step takes here, and what the shop's own work has taught of it",
    finds: (defaults) => defaults.steps.map((s) => s.title),
    holds: (d) => d.work.minutes,
    show: (p) => <MinutesOfSteps {...p} />,
  },
  prices: {
    name: "Prices",
    about: "Parts and work, tax, fixed prices, chains a cassette lasts",
    finds: () => [
      ...all("Currency", "Chains that a cassette lasts", "What the work costs", "An hour of work", "Rounded up to"),
      ...all("Fluid mark-up, times", "Tax", "Ask the customer beyond", workQuestions.tax_inside),
      ...all("A fixed price for the work of a route; empty goes by the hour", "Share of the waste"),
      ...Object.values(priceWords),
      ...Object.values(setWords),
      ...Object.values(classWords).map((c) => c.name),
      ...Object.values(routeWords).map((r) => r.name),
    ],
    holds: (d) => [
      d.currency,
      d.sets,
      Object.values(d.classes).map(({ limit_pct: _, together_pct: __, limit_reason: ___, ...prices }) => prices),
      ...[d.work.labour_hour, d.work.labour_step, d.work.fluids_by, d.work.tax_pct, d.work.ask_over_pct],
      ...[d.work.tax_inside, d.work.fixed, d.work.waste],
    ],
    show: (p) => (
      <>
        <Prices {...p} />
        <WorkPrices {...p} />
      </>
    ),
  },
  place: {
    name: "Place, time and units",
    about: "Time zone, how numbers are written, millimetres or inches; when a device signs out",
    finds: () => [
      ...all("Time zone", "Numbers, dates and money as in", "Lengths", "Distances", "Temperatures", "Volumes"),
      ...all("Weights", "Devices", "Signed out after", "Millimetres", "Inches", "Kilometres", "Miles"),
    ],
    holds: (d) => [
      ...[d.time_zone, d.locale, d.length_unit, d.distance_unit, d.temperature_unit, d.volume_unit, d.mass_unit],
      d.session_idle_minutes,
    ],
    show: (p) => (
      <>
        <WhereRules {...p} />
        <SigningOut {...p} />
      </>
    ),
  },
} satisfies Record<string, Part>;

export type PartName = keyof typeof parts;

export const partNames = Object.keys(parts) as PartName[];

export const isPart = (name: string | undefined): name is PartName => name !== undefined && name in parts;

/** The parts in which a draft differs from what is kept. */
export const changedParts = (draft: Draft, kept: Draft) =>
  partNames.filter((n) => JSON.stringify(parts[n].holds(draft)) !== JSON.stringify(parts[n].holds(kept)));

export type Found = { part: PartName; label?: string };

/** Where what is looked for stands: a part by its name or what it is about, or one of the labels in it. */
export function findSetting(text: string, defaults: RulesView["defaults"] | undefined): Found[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const has = (s: string) => words.every((w) => s.toLowerCase().includes(w));
  return partNames.flatMap((part): Found[] => {
    const p = parts[part];
    const labels = [...new Set(defaults ? p.finds(defaults) : [])].filter((l) => has(l) && !has(p.name));
    return [...(has(`${p.name} ${p.about}`) ? [{ part }] : []), ...labels.map((l) => ({ part, label: capital(l) }))];
  });
}
