import type { ClassRule, DrivetrainClass, FloorRules, Intervals, Recalls, Rules, School, Work } from "../../api/client";
import { plain } from "../../ui/format";
import { minorUnits, typedMoney } from "../../ui/money";
import { held, typed as measured } from "../../ui/units";
import { readDays, readTime, typedDays, typedTime } from "../../ui/when";
import { workQuestions } from "../../words/settings";
import { number } from "../bikes/draft";
import { readHours, readWeek, typedHours, typedWeek, week } from "./hours";

export const factorNames = ["fair", "dusty", "wet", "mud", "salt", "mid_motor"] as const;
export const setNames = ["half", "three_quarter", "one"] as const;
export const priceNames = ["chain", "sprockets", "rings", "labour_chain", "labour_sprockets", "labour_rings"] as const;
const lineNames = ["limit_pct", "together_pct"] as const;

type ClassDraft = Record<(typeof priceNames)[number] | (typeof lineNames)[number] | "limit_reason", string>;

/** The house rules as they are typed: what is a number is text here. */
export type Draft = Pick<Rules, "length_method" | "sprocket_school" | "link_school" | "grease_school"> & {
  wear_school: School;
  length_unit: Rules["length_unit"];
  distance_unit: Rules["distance_unit"];
  temperature_unit: Rules["temperature_unit"];
  volume_unit: Rules["volume_unit"];
  mass_unit: Rules["mass_unit"];
  time_zone: string;
  locale: string;
  currency: string;
  wear_places: string;
  session_idle_minutes: string;
  factors: Record<(typeof factorNames)[number], string>;
  sets: Record<(typeof setNames)[number], string>;
  classes: Record<DrivetrainClass, ClassDraft>;
  work: WorkDraft;
  intervals: IntervalDraft;
  recalls: RecallDraft;
  floor: FloorDraft;
};

/** A task of the shop's own as it is typed; id tells its lines apart. */
export type OwnTaskDraft = Pick<Intervals["own"][number], "code" | "title" | "weight" | "safety" | "kinds"> & {
  id: string;
  km: string;
  days: string;
};

export type IntervalDraft = {
  school: Intervals["school"];
  look_ahead: string;
  changed: Record<string, { km: string; days: string }>;
  own: OwnTaskDraft[];
};

export type RecallDraft = Omit<Recalls, "every_days" | "closed_on"> & { every_days: string; closed_on: string };

/** Who works when at what, and how many of each place there are. */
export type FloorDraft = {
  places: Record<string, string>;
  hours: Record<string, string>;
  people: Record<string, { skills: FloorRules["people"][string]["skills"]; hours: string; away: string }>;
};

/** A short name for a task of the shop's own, from its title: it stays when the title changes. */
const codeOf = (title: string) =>
  title
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, "-")
    .replaceAll(/^[^a-z]+|-+$/g, "")
    .slice(0, 40);

export const routeNames = ["wipe", "quick", "bath", "soak", "strip", "bare"] as const;

/** What is chosen rather than typed. */
const schoolNames = Object.keys(workQuestions) as (keyof typeof workQuestions)[];

const schoolsOf = (w: Pick<Work, (typeof schoolNames)[number]>) =>
  Object.fromEntries(schoolNames.map((n) => [n, w[n]])) as Pick<Work, (typeof schoolNames)[number]>;

/** How the shop cleans and what it charges, as it is typed. */
export type WorkDraft = Pick<Work, (typeof schoolNames)[number]> &
  Record<"labour_hour" | "labour_step" | "fluids_by" | "tax_pct" | "ask_over_pct", string> & {
    fixed: Record<string, string>;
    waste: Record<string, string>;
    minutes: Record<string, string>;
  };

const texts = <K extends string>(names: readonly K[], of: (name: K) => string) =>
  Object.fromEntries(names.map((n) => [n, of(n)])) as Record<K, string>;
const shown = plain;

export function toDraft(r: Rules): Draft {
  return {
    wear_school: r.wear_school,
    length_method: r.length_method,
    sprocket_school: r.sprocket_school,
    link_school: r.link_school,
    grease_school: r.grease_school,
    length_unit: r.length_unit,
    distance_unit: r.distance_unit,
    temperature_unit: r.temperature_unit,
    volume_unit: r.volume_unit,
    mass_unit: r.mass_unit,
    time_zone: r.time_zone,
    locale: r.locale,
    currency: r.currency,
    wear_places: String(r.wear_places),
    session_idle_minutes: String(r.session_idle_minutes),
    factors: texts(factorNames, (n) => shown(r.factors[n])),
    sets: texts(setNames, (n) => shown(r.chains_per_set[n])),
    classes: Object.fromEntries(
      r.classes.map((c) => [
        c.class,
        {
          ...texts(priceNames, (n) => (c[n] === undefined ? "" : typedMoney(c[n], r.currency))),
          ...texts(lineNames, (n) => shown(c[n])),
          limit_reason: c.limit_reason ?? "",
        },
      ]),
    ) as Draft["classes"],
    work: {
      ...schoolsOf(r.work),
      labour_hour: typedMoney(r.work.labour_hour, r.currency),
      labour_step: String(r.work.labour_step),
      fluids_by: plain(r.work.fluids_by),
      tax_pct: plain(r.work.tax_pct),
      ask_over_pct: plain(r.work.ask_over_pct),
      fixed: mapped(r.work.fixed_route, (v) => typedMoney(v, r.currency)),
      waste: mapped(r.work.waste_route, (v) => typedMoney(v, r.currency)),
      minutes: mapped(r.work.minutes, String),
    },
    intervals: {
      school: r.intervals.school,
      look_ahead: String(r.intervals.look_ahead_days),
      changed: Object.fromEntries(
        Object.entries(r.intervals.changed).map(([code, s]) => [
          code,
          { km: held("distance", s.every_hard_km), days: shown(s.every_days) },
        ]),
      ),
      own: r.intervals.own.map((t) => ({
        ...t,
        id: t.code,
        km: held("distance", t.every_hard_km),
        days: shown(t.every_days),
      })),
    },
    recalls: {
      ...r.recalls,
      every_days: String(r.recalls.every_days),
      from: typedTime(r.recalls.from),
      until: typedTime(r.recalls.until),
      closed_on: typedDays(r.recalls.closed_on),
    },
    floor: {
      places: mapped(r.floor.places, String),
      hours: texts(week, (d) => typedHours(r.floor.hours[d])),
      people: Object.fromEntries(
        Object.entries(r.floor.people).map(([id, p]) => [
          id,
          { skills: p.skills, hours: typedWeek(p.hours), away: typedDays(p.away ?? []) },
        ]),
      ),
    },
  };
}

const mapped = (m: Record<string, number>, as: (v: number) => string) =>
  Object.fromEntries(Object.entries(m).map(([k, v]) => [k, as(v)]));

/** Reads a draft. What is no number gets its fault here; whether it can be is for the server to say. */
export function fromDraft(d: Draft, was?: Rules): { rules: Rules; faults: Record<string, string> } {
  const faults: Record<string, string> = {};
  const read = (text: string, path: string, as: (t: string) => number | undefined = number) => {
    const n = as(text);
    if (n === undefined)
      faults[`rules.${path}`] = text.trim() ? `“${text.trim()}” is not a number.` : "This is needed.";
    return n ?? 0;
  };
  const currency = d.currency.trim().toUpperCase();
  const classes = Object.entries(d.classes).map(([name, c], i): ClassRule => {
    const rule: ClassRule = { class: name as DrivetrainClass };
    if (c.limit_reason.trim()) rule.limit_reason = c.limit_reason.trim();
    for (const n of lineNames) if (c[n].trim()) rule[n] = read(c[n], `classes[${i}].${n}`);
    for (const n of priceNames)
      if (c[n].trim()) rule[n] = read(c[n], `classes[${i}].${n}`, (t) => minorUnits(t, currency));
    return rule;
  });
  const numbers = <K extends string>(names: readonly K[], of: Record<K, string>, path: string) =>
    Object.fromEntries(names.map((n) => [n, read(of[n], `${path}.${n}`)])) as Record<K, number>;
  /** What was typed of a list; an empty field is the house's. */
  const typed = (texts: Record<string, string>, path: string, as?: (t: string) => number | undefined) =>
    Object.fromEntries(
      Object.entries(texts)
        .filter(([, t]) => t.trim() !== "")
        .map(([k, t]) => [k, read(t, `${path}.${k}`, as)]),
    );
  const every = (s: { km: string; days: string }, path: string, before?: { every_hard_km?: number }) => ({
    ...(s.km.trim()
      ? { every_hard_km: read(s.km, `${path}.every_hard_km`, (t) => measured("distance", t, before?.every_hard_km)) }
      : {}),
    ...(s.days.trim() ? { every_days: read(s.days, `${path}.every_days`) } : {}),
  });
  const rules: Rules = {
    wear_school: d.wear_school,
    length_method: d.length_method,
    sprocket_school: d.sprocket_school,
    link_school: d.link_school,
    grease_school: d.grease_school,
    length_unit: d.length_unit,
    distance_unit: d.distance_unit,
    temperature_unit: d.temperature_unit,
    volume_unit: d.volume_unit,
    mass_unit: d.mass_unit,
    time_zone: d.time_zone.trim(),
    locale: d.locale,
    currency,
    wear_places: read(d.wear_places, "wear_places"),
    session_idle_minutes: read(d.session_idle_minutes, "session_idle_minutes"),
    factors: numbers(factorNames, d.factors, "factors"),
    chains_per_set: numbers(setNames, d.sets, "chains_per_set"),
    classes,
    work: {
      ...schoolsOf(d.work),
      labour_hour: read(d.work.labour_hour, "work.labour_hour", (t) => minorUnits(t, currency)),
      labour_step: read(d.work.labour_step, "work.labour_step"),
      fluids_by: read(d.work.fluids_by, "work.fluids_by"),
      tax_pct: read(d.work.tax_pct, "work.tax_pct"),
      ask_over_pct: read(d.work.ask_over_pct, "work.ask_over_pct"),
      fixed_route: typed(d.work.fixed, "work.fixed_route", (t) => minorUnits(t, currency)),
      waste_route: typed(d.work.waste, "work.waste_route", (t) => minorUnits(t, currency)),
      minutes: typed(d.work.minutes, "work.minutes"),
    },
    intervals: {
      school: d.intervals.school,
      look_ahead_days: read(d.intervals.look_ahead, "intervals.look_ahead_days"),
      changed: Object.fromEntries(
        Object.entries(d.intervals.changed)
          .filter(([, s]) => s.km.trim() || s.days.trim())
          .map(([code, s]) => [code, every(s, `intervals.changed.${code}`, was?.intervals.changed[code])]),
      ),
      own: d.intervals.own.map((t, i) => ({
        code: t.code || codeOf(t.title),
        title: t.title,
        weight: t.weight,
        safety: t.safety,
        kinds: t.kinds,
        ...every(
          t,
          `intervals.own[${i}]`,
          was?.intervals.own.find((o) => o.code === t.code),
        ),
      })),
    },
    recalls: {
      ...d.recalls,
      every_days: read(d.recalls.every_days, "recalls.every_days"),
      from: readTime(d.recalls.from) ?? d.recalls.from,
      until: readTime(d.recalls.until) ?? d.recalls.until,
      closed_on: readDays(d.recalls.closed_on),
    },
    floor: {
      places: Object.fromEntries(Object.entries(d.floor.places).map(([p, n]) => [p, read(n, `floor.places.${p}`)])),
      hours: Object.fromEntries(
        week.map((day) => {
          const hours = readHours(d.floor.hours[day] ?? "");
          if (!hours) faults[`rules.floor.hours.${day}`] = "Hours look like 08:30-12:30, 13:00-17:30; empty is closed.";
          return [day, hours ?? []];
        }),
      ),
      people: Object.fromEntries(
        Object.entries(d.floor.people).map(([id, p]) => {
          const hours = readWeek(p.hours);
          if (!hours) faults[`rules.floor.people.${id}.hours`] = "Own hours look like mon 09:00-13:00; wed off.";
          const away = readDays(p.away);
          return [
            id,
            {
              skills: p.skills,
              ...(hours && Object.keys(hours).length > 0 ? { hours } : {}),
              ...(away.length > 0 ? { away } : {}),
            },
          ];
        }),
      ),
    },
  };
  return { rules, faults };
}

/** What a preview turns on: a draft's school and lines, everything else as it is kept. */
export function judgedBy(kept: Rules, draft: Draft, school: School): Rules | null {
  const read = fromDraft(draft);
  if (Object.keys(read.faults).some((path) => path.includes("limit_pct") || path.includes("together_pct"))) return null;
  const classes = kept.classes.map((c, i): ClassRule => {
    const { limit_pct: _, together_pct: __, limit_reason: ___, ...prices } = c;
    const typed = read.rules.classes[i];
    // While only one of the two lines is typed, or the reason is not, nothing is changed yet.
    if (typed?.limit_pct === undefined || typed.together_pct === undefined) return prices;
    return {
      ...prices,
      limit_pct: typed.limit_pct,
      together_pct: typed.together_pct,
      limit_reason: typed.limit_reason ?? "…",
    };
  });
  return { ...kept, wear_school: school, classes };
}

/** What a preview of the due list turns on: a draft's intervals, everything else as it is kept. */
export function dueBy(kept: Rules, draft: Draft): Rules | null {
  const read = fromDraft(draft);
  if (Object.keys(read.faults).some((path) => path.includes("intervals."))) return null;
  return { ...kept, intervals: read.rules.intervals };
}

export function isDraft(v: unknown): v is Draft {
  const d = v as Draft;
  return (
    typeof v === "object" &&
    v !== null &&
    typeof d.wear_school === "string" &&
    typeof d.currency === "string" &&
    typeof d.length_method === "string" &&
    typeof d.work === "object" &&
    typeof d.work.labour_hour === "string" &&
    typeof d.work.cleaner === "string" &&
    typeof d.intervals === "object" &&
    Array.isArray(d.intervals.own) &&
    typeof d.recalls === "object" &&
    typeof d.floor === "object" &&
    typeof d.floor.hours === "object" &&
    typeof d.work.minutes === "object" &&
    typeof d.factors === "object" &&
    factorNames.every((n) => typeof d.factors[n] === "string") &&
    typeof d.sets === "object" &&
    setNames.every((n) => typeof d.sets[n] === "string") &&
    typeof d.classes === "object" &&
    Object.values(d.classes).every((c) => priceNames.every((n) => typeof c[n] === "string"))
  );
}
