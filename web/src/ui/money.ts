import { digits } from "./format";
import { readNumber, signsOf } from "./numbers";
import { ways } from "./shop";

// Amounts travel in the minor units of the shop's currency; people type and read them in whole ones.

/** How many digits of a currency stand behind the point. */
function digitsOf(currency: string): number {
  try {
    const { maximumFractionDigits } = new Intl.NumberFormat("en", { style: "currency", currency }).resolvedOptions();
    return maximumFractionDigits ?? 2;
  } catch {
    return 2; // a currency that is half typed, or that the browser does not know
  }
}

/** An amount as it is read: €12.40. */
export function money(minor: number, currency: string): string {
  const amount = minor / 10 ** digitsOf(currency);
  try {
    return new Intl.NumberFormat(ways().locale, {
      style: "currency",
      currency,
      currencyDisplay: "narrowSymbol",
    }).format(amount);
  } catch {
    return `${digits(amount, 2)} ${currency}`;
  }
}

/**
 * An amount that was reckoned and not agreed on, as exact as an amount like the other may be told: €53, but
 * €7.40 where whole ones would be too coarse.
 */
export function roughMoney(minor: number, currency: string, like = minor): string {
  const whole = 10 ** digitsOf(currency);
  if (Math.abs(like) < 20 * whole) return money(Math.round(minor), currency);
  return money(Math.round(minor / whole) * whole, currency).replace(/[.,]0+(?!\d)/, "");
}

/** An amount as it is typed. */
export const typedMoney = (minor: number, currency: string) => {
  const behind = digitsOf(currency);
  return (minor / 10 ** behind).toFixed(behind).replace(".", signsOf().decimal);
};

/** What was typed, in minor units; undefined for what is no amount of this currency. */
export function minorUnits(text: string, currency: string): number | undefined {
  const behind = digitsOf(currency);
  const read = readNumber(text);
  if (read === undefined || read >= 1e7) return undefined;
  const minor = Math.round(read * 10 ** behind);
  return Math.abs(minor / 10 ** behind - read) > 1e-9 ? undefined : minor;
}
