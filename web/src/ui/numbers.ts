import { once } from "./format";
import { ways } from "./shop";

// Numbers as people type them: by the shop's own signs, or the other way where that can mean one thing only.

/** The signs by which a locale writes numbers. */
export function signsOf(locale = ways().locale): { decimal: string; group: string } {
  const format = once(`signs ${locale}`, () => new Intl.NumberFormat(locale, { useGrouping: true }));
  const parts = format.formatToParts(1234567.8);
  const sign = (type: string) => parts.find((p) => p.type === type)?.value ?? "";
  return { decimal: sign("decimal") || ".", group: sign("group") };
}

const spaces = /[\s\u00a0\u202f’']/g;

/**
 * A number of zero or more; undefined for what is none. Three figures behind a sign that this shop does not write decimals
 * with are thousands to one and decimals to another: where the shop groups by that sign they are thousands, else nobody knows.
 */
export function readNumber(text: string): number | undefined {
  const typed = text.replace(spaces, "");
  const { decimal, group } = signsOf();
  const other = decimal === "," ? "." : ",";
  const sign = (s: string) => `\\${s}`;
  if (new RegExp(`^\\d{1,9}(${sign(decimal)}\\d{1,6})?$`).test(typed)) return Number(typed.replace(decimal, "."));
  if (group === other && new RegExp(`^\\d{1,3}(${sign(other)}\\d{3})+(${sign(decimal)}\\d{1,6})?$`).test(typed))
    return Number(typed.replaceAll(other, "").replace(decimal, "."));
  if (new RegExp(`^\\d{1,9}${sign(other)}(\\d{1,2}|\\d{4,6})$`).test(typed)) return Number(typed.replace(other, "."));
  return undefined;
}
