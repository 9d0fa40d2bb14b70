import type { ClassRule, DrivetrainClass, Rules, School } from "../../api/client";
import { minorUnits, typedMoney } from "../../ui/money";
import { number } from "../bikes/draft";

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
  currency: string;
  wear_places: string;
  session_idle_minutes: string;
  factors: Record<(typeof factorNames)[number], string>;
  sets: Record<(typeof setNames)[number], string>;
  classes: Record<DrivetrainClass, ClassDraft>;
};

const texts = <K extends string>(names: readonly K[], of: (name: K) => string) =>
  Object.fromEntries(names.map((n) => [n, of(n)])) as Record<K, string>;
const shown = (n: number | undefined) => (n === undefined ? "" : String(n));

export function toDraft(r: Rules): Draft {
  return {
    wear_school: r.wear_school,
    length_method: r.length_method,
    sprocket_school: r.sprocket_school,
    link_school: r.link_school,
    grease_school: r.grease_school,
    length_unit: r.length_unit,
    distance_unit: r.distance_unit,
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
  };
}

/** Reads a draft. What is no number gets its fault here; whether it can be is for the server to say. */
export function fromDraft(d: Draft): { rules: Rules; faults: Record<string, string> } {
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
  const rules: Rules = {
    wear_school: d.wear_school,
    length_method: d.length_method,
    sprocket_school: d.sprocket_school,
    link_school: d.link_school,
    grease_school: d.grease_school,
    length_unit: d.length_unit,
    distance_unit: d.distance_unit,
    currency,
    wear_places: read(d.wear_places, "wear_places"),
    session_idle_minutes: read(d.session_idle_minutes, "session_idle_minutes"),
    factors: numbers(factorNames, d.factors, "factors"),
    chains_per_set: numbers(setNames, d.sets, "chains_per_set"),
    classes,
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

export function isDraft(v: unknown): v is Draft {
  const d = v as Draft;
  return (
    typeof v === "object" &&
    v !== null &&
    typeof d.wear_school === "string" &&
    typeof d.currency === "string" &&
    typeof d.length_method === "string" &&
    typeof d.factors === "object" &&
    factorNames.every((n) => typeof d.factors[n] === "string") &&
    typeof d.sets === "object" &&
    setNames.every((n) => typeof d.sets[n] === "string") &&
    typeof d.classes === "object" &&
    Object.values(d.classes).every((c) => priceNames.every((n) => typeof c[n] === "string"))
  );
}
