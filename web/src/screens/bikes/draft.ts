import type { BikeFacts, Mix } from "../../api/client";
import { plain } from "../../ui/format";
import { readNumber } from "../../ui/numbers";
import { held, type Kind, typed, wrongFor } from "../../ui/units";
import { heldDay, readWhen } from "../../ui/when";

/** A bike's facts as they are typed: every field is text, empty when not known. */
export type Draft = Record<DraftField, string>;

const texts = [
  "make",
  "model",
  "colour",
  "frame_number",
  "kind",
  "drivetrain_kind",
  "brakes",
  "motor",
  "lubricant",
  "care",
  "limit_source",
  "wear_school",
  "limit_reason",
  "notes",
  "needed_on",
  "needed_for",
] as const;
const numbers = [
  "sprocket_count",
  "chainstay_mm",
  "chainstay_growth_mm",
  "cage_mm",
  "capacity_teeth",
  "chain_links",
  "weekly_km",
  "limit_pct",
  "together_pct",
] as const;
const teeth = ["sprocket_teeth", "ring_teeth"] as const;
const shares = ["fair", "dusty", "wet", "mud", "salt"] as const;

type DraftField =
  | (typeof texts)[number]
  | (typeof numbers)[number]
  | (typeof teeth)[number]
  | (typeof shares)[number]
  | "clutch";

export const draftFields: readonly DraftField[] = [...texts, ...numbers, ...teeth, ...shares, "clutch"];

export const emptyDraft = Object.fromEntries(draftFields.map((f) => [f, ""])) as Draft;

export function isDraft(v: unknown): v is Draft {
  return typeof v === "object" && v !== null && draftFields.every((f) => typeof (v as Draft)[f] === "string");
}

/** The facts that are a length or a distance, which are typed in the shop's unit. */
export const kinds: Partial<Record<DraftField, Kind>> = {
  chainstay_mm: "length",
  chainstay_growth_mm: "length",
  cage_mm: "length",
  weekly_km: "distance",
};

/** Facts as they are typed, lengths and distances in the shop's unit. */
export function toDraft(f: BikeFacts): Draft {
  const d = { ...emptyDraft };
  for (const name of texts) d[name] = f[name] ?? "";
  d.needed_on = heldDay(f.needed_on);
  for (const name of numbers) {
    const v = f[name];
    const kind = kinds[name];
    if (v !== undefined) d[name] = kind ? held(kind, v) : plain(v, 3);
  }
  for (const name of teeth) d[name] = (f[name] ?? []).join(", ");
  for (const name of shares) d[name] = f.mix ? plain(100 * f.mix[name], 1) : "";
  d.clutch = f.clutch === undefined ? "" : f.clutch ? "yes" : "no";
  return d;
}

/** A typed number, by the shop's signs: 410, 410.5 or 410,5. */
export const number = readNumber;

/** Teeth as they are written down: 34/50, 34, 50 or 11–42. */
export function numberList(text: string): number[] | undefined {
  const parts = text.trim().split(/[\s,/–-]+/);
  return parts.every((p) => /^\d+$/.test(p)) ? parts.map(Number) : undefined;
}

/** Reads a draft. What is no number gets its fault here; whether it can be is for the server to say. */
export function fromDraft(d: Draft, was: BikeFacts = {}): { facts: BikeFacts; faults: Record<string, string> } {
  const facts: BikeFacts = {};
  const faults: Record<string, string> = {};
  for (const name of texts) if (d[name].trim()) Object.assign(facts, { [name]: d[name].trim() });
  const needed = readWhen(d.needed_on, "day");
  if (needed.is === "day") facts.needed_on = needed.day;
  else if (needed.is === "none") faults["facts.needed_on"] = needed.why;
  for (const name of numbers) {
    if (!d[name].trim()) continue;
    const kind = kinds[name];
    const n = kind ? typed(kind, d[name], was[name]) : number(d[name]);
    if (n === undefined || n < 0)
      faults[`facts.${name}`] = kind ? wrongFor(kind) : `“${d[name].trim()}” is not a number.`;
    else facts[name] = n;
  }
  for (const name of teeth) {
    if (!d[name].trim()) continue;
    const list = numberList(d[name]);
    if (!list) faults[`facts.${name}`] = `“${d[name].trim()}” is not a list of teeth: write 34, 50 or 11–42.`;
    else facts[name] = list;
  }
  if (d.clutch) facts.clutch = d.clutch === "yes";
  const read = readShares(d);
  if (read.fault) faults["facts.mix"] = read.fault;
  if (read.mix) facts.mix = read.mix;
  return { facts, faults };
}

export type Shares = Record<(typeof shares)[number], string>;

export const noShares: Shares = { fair: "", dusty: "", wet: "", mud: "", salt: "" };

/** Reads shares typed in percent; neither a mix nor a fault when none is. */
export function readShares(d: Shares): { mix?: Mix; fault?: string } {
  if (!shares.some((s) => d[s].trim())) return {};
  const mix = { fair: 0, dusty: 0, wet: 0, mud: 0, salt: 0 };
  for (const s of shares) {
    if (!d[s].trim()) continue;
    const n = number(d[s]);
    if (n === undefined) return { fault: `“${d[s].trim()}” is not a number.` };
    mix[s] = n / 100;
  }
  return { mix };
}
