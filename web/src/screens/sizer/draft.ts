import type { BikeFacts, Joint, SizerAnswer, SizerQuestion } from "../../api/client";
import { held, typed, wrongFor } from "../../ui/units";
import { number, numberList } from "../bikes/draft";

/** What stands in the sizer, as typed. */
export type Draft = {
  tag: string; // the bike it is from; empty for a drivetrain that is only typed
  kind: string;
  rings: string;
  sprockets: string;
  chainstay_mm: string;
  growth_mm: string;
  cage_mm: string;
  capacity_teeth: string;
  box_links: string;
  box_has_joining_link: boolean;
  joint: Joint;
  half_link: boolean;
  maker_links: string;
  old_links: string;
  overlap_links: string;
  slot_mm: string;
  slots_rear: boolean;
  fixed: boolean;
  coaster: boolean;
};

export const emptyDraft: Draft = {
  tag: "",
  kind: "",
  rings: "",
  sprockets: "",
  chainstay_mm: "",
  growth_mm: "",
  cage_mm: "",
  capacity_teeth: "",
  box_links: "",
  box_has_joining_link: false,
  joint: "joining-link",
  half_link: false,
  maker_links: "",
  old_links: "",
  overlap_links: "",
  slot_mm: "",
  slots_rear: false,
  fixed: false,
  coaster: false,
};

export function isDraft(v: unknown): v is Draft {
  return (
    typeof v === "object" &&
    v !== null &&
    Object.entries(emptyDraft).every(([name, value]) => typeof (v as Record<string, unknown>)[name] === typeof value)
  );
}

const shown = (n: number | undefined) => (n === undefined ? "" : String(n));

/** What is on record of a bike, for the sizer; what is about the new chain stays as it was typed. */
export function fromBike(tag: string, f: BikeFacts, before: Draft = emptyDraft): Draft {
  return {
    ...(before.tag === tag ? before : emptyDraft),
    tag,
    kind: f.drivetrain_kind ?? "",
    rings: (f.ring_teeth ?? []).join(", "),
    sprockets: (f.sprocket_teeth ?? []).join(", "),
    chainstay_mm: held("length", f.chainstay_mm),
    growth_mm: held("length", f.chainstay_growth_mm),
    cage_mm: held("length", f.cage_mm),
    capacity_teeth: shown(f.capacity_teeth),
    old_links: shown(f.chain_links),
    fixed: f.kind === "fixed-gear",
    coaster: f.brakes === "coaster",
  };
}

const numbers = [
  "chainstay_mm",
  "growth_mm",
  "cage_mm",
  "capacity_teeth",
  "box_links",
  "maker_links",
  "old_links",
  "overlap_links",
  "slot_mm",
] as const;

/** Lengths as they are kept of a bike: a field that still holds one of them means just that. */
export type Lengths = Partial<Record<(typeof numbers)[number], number>>;

/** The lengths of a bike by the names of the sizer. */
export const lengthsOf = (f: BikeFacts | undefined): Lengths => ({
  ...(f?.chainstay_mm === undefined ? {} : { chainstay_mm: f.chainstay_mm }),
  ...(f?.chainstay_growth_mm === undefined ? {} : { growth_mm: f.chainstay_growth_mm }),
  ...(f?.cage_mm === undefined ? {} : { cage_mm: f.cage_mm }),
});

/** Reads a draft. What is no number gets its fault here; whether it can be is for the server to say. */
export function toQuestion(d: Draft, was: Lengths = {}): { question: SizerQuestion; faults: Record<string, string> } {
  const faults: Record<string, string> = {};
  const question: SizerQuestion = { joint: d.joint };
  if (d.tag) question.tag = d.tag;
  if (d.kind) question.kind = d.kind as NonNullable<SizerQuestion["kind"]>;
  for (const name of ["rings", "sprockets"] as const) {
    if (!d[name].trim()) continue;
    const list = numberList(d[name]);
    if (!list) faults[name] = `“${d[name].trim()}” is not a list of teeth: write 34, 50 or 11–42.`;
    else question[name] = list;
  }
  for (const name of numbers) {
    if (!d[name].trim()) continue;
    const length = name.endsWith("_mm");
    const n = length ? typed("length", d[name], was[name]) : number(d[name]);
    if (n === undefined || n < 0) faults[name] = length ? wrongFor("length") : `“${d[name].trim()}” is not a number.`;
    else if (name.endsWith("links") && !Number.isInteger(n)) faults[name] = "Links are counted whole.";
    else question[name] = n;
  }
  if (d.box_has_joining_link) question.box_has_joining_link = true;
  if (d.kind !== "derailleur") {
    if (d.half_link) question.half_link = true;
    if (d.fixed) question.fixed = true;
    if (d.coaster) question.coaster = true;
    if (d.slots_rear) question.slots_open = "rear";
  }
  return { question, faults };
}

/** The facts of a bike with what was typed in the sizer. */
export function withDraft(f: BikeFacts, d: Draft): BikeFacts {
  const { question: q } = toQuestion(d, lengthsOf(f));
  const facts: BikeFacts = { ...f };
  if (q.kind) facts.drivetrain_kind = q.kind;
  if (q.rings) facts.ring_teeth = q.rings;
  if (q.sprockets) facts.sprocket_teeth = q.sprockets;
  if (q.chainstay_mm !== undefined) facts.chainstay_mm = q.chainstay_mm;
  if (q.growth_mm !== undefined) facts.chainstay_growth_mm = q.growth_mm;
  if (q.cage_mm !== undefined) facts.cage_mm = q.cage_mm;
  if (q.capacity_teeth !== undefined) facts.capacity_teeth = q.capacity_teeth;
  return facts;
}

/** Whether what was typed differs from what is on record. */
export function differs(f: BikeFacts, d: Draft): boolean {
  const now = withDraft(f, d);
  const keys = Object.keys(now) as (keyof BikeFacts)[];
  return keys.some((k) => JSON.stringify(now[k]) !== JSON.stringify(f[k]));
}

/** The gears in which the chain would hang slack with the length that is drawn. */
export const slackGears = (a: SizerAnswer) => (a.gear?.gears ?? []).filter((g) => g.state === "slack");
