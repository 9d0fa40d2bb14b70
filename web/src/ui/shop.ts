/** Where the shop is, and how it writes and counts. Everything on the page goes by it, whatever the device is set to. */
export type Ways = {
  /** IANA */
  zone: string;
  /** BCP 47: decimal sign, grouping, order of dates, twelve or twenty-four hours */
  locale: string;
  length: "mm" | "in";
  distance: "km" | "mi";
  temperature: "c" | "f";
  volume: "ml" | "fl-oz";
  mass: "g" | "oz";
};

const asNew: Ways = {
  zone: "UTC",
  locale: "en-GB",
  length: "mm",
  distance: "km",
  temperature: "c",
  volume: "ml",
  mass: "g",
};

let current = asNew;
let ahead = 0; // of this device's clock, ms

/** The shop's ways; those of a new shop until somebody said which shop it is. */
export const ways = () => current;

/** Whether this browser knows a zone or a locale: an old one does not know all, and must show its page all the same. */
function known(options: Intl.DateTimeFormatOptions, locale = "en-GB"): boolean {
  try {
    return Boolean(new Intl.DateTimeFormat(locale, options) && new Intl.Locale(locale));
  } catch {
    return false;
  }
}

/** Has everything go by a shop's ways. What is shown already is shown anew with the next answer. */
export function settle(shop: Partial<Ways>): void {
  const said = Object.fromEntries(Object.entries(shop).filter(([, v]) => v)) as Partial<Ways>;
  current = { ...asNew, ...said };
  if (!known({ timeZone: current.zone })) current.zone = asNew.zone;
  if (!known({}, current.locale)) current.locale = asNew.locale;
}

/** What a device's clock may be wrong by, or an answer be on its way, without anything being made of it. */
const slack = 5000;

/** Has everything go by the shop's clock, as an answer from the server told it just now. */
export function settleClock(told: string): void {
  const off = Date.parse(told) - Date.now();
  ahead = Math.abs(off) > slack ? off : 0;
}

/** Has everything go by the shop's clock, as this device knew it when it last heard of it. */
export function settleBehind(ms: number): void {
  ahead = ms;
}

/** By how much this device's clock is behind the shop's, in milliseconds, as far as it matters. */
export const behindBy = () => ahead;

/** The time by the shop's clock: the server's, in a demo the demo's. */
export const now = () => Date.now() + ahead;

/** The ways of a shop as the session, or a customer's page, tells of them. */
export const waysOf = (s: {
  time_zone: string;
  locale: string;
  distance_unit: Ways["distance"];
  length_unit?: Ways["length"];
  temperature_unit?: Ways["temperature"];
  volume_unit?: Ways["volume"];
  mass_unit?: Ways["mass"];
}): Ways => ({
  zone: s.time_zone,
  locale: s.locale,
  distance: s.distance_unit,
  length: s.length_unit ?? "mm",
  temperature: s.temperature_unit ?? "c",
  volume: s.volume_unit ?? "ml",
  mass: s.mass_unit ?? "g",
});
