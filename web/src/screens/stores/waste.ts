import type { WasteRow } from "../../api/client";
import { digits } from "../../ui/format";
import { ways } from "../../ui/shop";
import { figure, kilograms, litres, signOf, typed } from "../../ui/units";
import { number } from "../bikes/draft";

// Waste is kept in litres, of rags in kilograms; shops of ounces type and read theirs.

export const wasteKinds: { kind: WasteRow["kind"]; words: string }[] = [
  { kind: "spent-solvent", words: "Spent solvent" },
  { kind: "oily-water", words: "Oily water" },
  { kind: "sludge", words: "Sludge" },
  { kind: "rags", words: "Rags" },
];

export const wasteKindWords = (kind: WasteRow["kind"]) => wasteKinds.find((k) => k.kind === kind)?.words ?? kind;

/** What was typed, in litres or kilograms. A shop of ounces says so; others type litres and kilograms. */
export function wasteAmount(kind: WasteRow["kind"], text: string): number | undefined {
  const of = kind === "rags" ? ("mass" as const) : ("volume" as const);
  const own = ways()[of] === "g" || ways()[of] === "ml" ? number(text) : undefined;
  if (own !== undefined) return own;
  const small = typed(of, text);
  return small === undefined ? undefined : small / 1000;
}

/** What stands behind the figure of an amount. */
export function wasteUnit(kind: WasteRow["kind"]): string {
  if (kind === "rags") return ways().mass === "g" ? "kg" : signOf("mass");
  return ways().volume === "ml" ? "L" : signOf("volume");
}

/** An amount in words. */
export const wasteWords = (kind: WasteRow["kind"], v: number) =>
  kind === "rags" ? kilograms(1000 * v) : litres(1000 * v);

/** So many millilitres as a field holds them. */
export const wasteText = (ml: number) =>
  ways().volume === "ml" ? digits(ml / 1000, 2) : figure("volume", ml, 1, false);
