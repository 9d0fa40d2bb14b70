import type { MixAnswer, MixQuestion } from "../../api/client";
import type { Poured } from "../../draw/vessel";
import { held, typed, wrongFor } from "../../ui/units";
import { number } from "../bikes/draft";

/** What stands in the mixing panel, as typed. */
export type Draft = { mode: MixQuestion["mode"] } & Record<Name, string>;

type Name = Exclude<keyof MixQuestion, "mode">;

/** Which fields each way to mix asks for, in the order in which one says them. */
export const asks: Record<MixQuestion["mode"], readonly Name[]> = {
  ratio: ["product_parts", "water_parts", "volume_ml"],
  strength: ["strength_pct", "volume_ml"],
  "top-up": ["have_ml", "have_strength_pct", "want_ml", "want_strength_pct"],
};

/** Two to one into a tray: what goes where a product's label is silent. */
export const houseMix = (): Draft => ({
  mode: "ratio",
  product_parts: "2",
  water_parts: "1",
  volume_ml: held("volume", 500),
  strength_pct: "",
  have_ml: "",
  have_strength_pct: "",
  want_ml: "",
  want_strength_pct: "",
});

export const isDraft = (v: unknown): v is Draft =>
  typeof v === "object" &&
  v !== null &&
  Object.keys(houseMix()).every((name) => typeof (v as Record<string, unknown>)[name] === "string") &&
  (v as Draft).mode in asks;

/** The question a draft asks, once every field of its way is there and a number. */
export function toQuestion(d: Draft): { question?: MixQuestion; faults: Partial<Record<Name, string>> } {
  const question: MixQuestion = { mode: d.mode };
  const faults: Partial<Record<Name, string>> = {};
  for (const name of asks[d.mode]) {
    const text = d[name].trim();
    const volume = name.endsWith("_ml");
    const n = volume ? typed("volume", text) : number(text);
    if (n !== undefined) question[name] = n;
    else if (text) faults[name] = volume ? wrongFor("volume") : `“${text}” is not a number.`;
  }
  const whole = asks[d.mode].every((name) => question[name] !== undefined);
  return whole ? { question, faults } : { faults };
}

/** What to pour, in whole millilitres that add up to the whole. */
export function poured(q: MixQuestion, a: MixAnswer): Poured {
  const product = Math.round(a.product_ml);
  return { there: q.have_ml ?? 0, product, water: Math.max(0, Math.round(a.product_ml + a.water_ml) - product) };
}
