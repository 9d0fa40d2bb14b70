import { dayOf, daysBetween, today } from "./days";
import { now, ways } from "./shop";

// Numbers, days and times as the shop writes them. The server does not round; the page does, here.

/** One formatter for each way of writing: making one is slow. */
const made = new Map<string, Intl.NumberFormat | Intl.DateTimeFormat>();

export function once<F extends Intl.NumberFormat | Intl.DateTimeFormat>(key: string, make: () => F): F {
  const known = made.get(key) as F | undefined;
  if (known) return known;
  const fresh = make();
  made.set(key, fresh);
  return fresh;
}

/** A number with so many digits behind the sign, or up to so many. */
export const digits = (v: number, least: number, most = least): string => written(v, least, most, true);

/** A number as a field holds it: in one piece. */
export const plain = (v: number | undefined, most = 6): string => (v === undefined ? "" : written(v, 0, most, false));

function written(v: number, least: number, most: number, grouped: boolean): string {
  const { locale } = ways();
  const format = once(`${locale} ${least} ${most} ${grouped}`, () => {
    const options = { minimumFractionDigits: least, maximumFractionDigits: most, useGrouping: grouped };
    return new Intl.NumberFormat(locale, options);
  });
  return signed(format.format(v));
}

/** "-0.00" is just zero, and a true minus sign is easier to see. */
const signed = (s: string) => (/[1-9]/.test(s) ? s.replace("-", "−") : s.replace("-", ""));

export const whole = (v: number) => digits(v, 0);

/** Wear to a hundredth; halves of the house limits stay whole: 0.5, 0.75, 0.62. */
export const percent = (p: number) => digits(p, 2);

/** The program speaks English: its words for days and months, in the order and with the hours of the shop's region. */
function wordsLocale(): string {
  const region = new Intl.Locale(ways().locale).region ?? "GB";
  const own = `en-${region}`;
  return Intl.DateTimeFormat.supportedLocalesOf([own]).length > 0 ? own : "en-GB";
}

/** Whether the shop's clock has twelve hours. */
export function twelveHours(): boolean {
  const { locale } = ways();
  const cycle = once(`cycle ${locale}`, () => new Intl.DateTimeFormat(locale, { hour: "numeric" })).resolvedOptions();
  return cycle.hour12 ?? false;
}

function dates(name: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const { zone, locale } = ways();
  return once(`${name} ${zone} ${locale}`, () => {
    const hours = options.hour ? { hour12: twelveHours() } : {};
    return new Intl.DateTimeFormat(wordsLocale(), { timeZone: zone, ...options, ...hours });
  });
}

/** 14:05, or 2:05 PM. */
export function clock(at: string | number): string {
  return dates("clock", { hour: twelveHours() ? "numeric" : "2-digit", minute: "2-digit" }).format(new Date(at));
}

/** 14, or 2: an hour on a rail; where a half of the day begins, or is said to, 2 PM. */
export function hourOf(ms: number, half = false): string {
  const said = dates("hour", { hour: twelveHours() ? "numeric" : "2-digit" }).format(ms);
  return half || /^12\D/.test(said) ? said : (/^\d+/.exec(said)?.[0] ?? said);
}

/** Mon 14:05. */
export const weekdayAndTime = (iso: string) =>
  `${dates("short weekday", { weekday: "short" }).format(new Date(iso))} ${clock(iso)}`;

/** Monday. */
export const weekday = (at: string | number) => dates("weekday", { weekday: "long" }).format(new Date(at));

/** Monday 4 May. */
export const longDay = (ms: number) => dates("long day", { weekday: "long", day: "numeric", month: "long" }).format(ms);

/** Monday 4 May 2026: nothing is left open. */
export const fullDay = (ms: number) =>
  dates("full day", { weekday: "long", day: "numeric", month: "long", year: "numeric" }).format(ms);

/** 24 Nov; with the year when it is another one. A day alone is that day wherever the shop is. */
export function shortDay(at: string, from = now()): string {
  const ms = /^\d{4}-\d\d-\d\d$/.test(at) ? noon(at) : Date.parse(at);
  return dayOf(ms).slice(0, 4) === dayOf(from).slice(0, 4) ? day(ms) : dayAndYear(ms);
}

const day = (ms: number) => dates("day", { day: "2-digit", month: "short" }).format(ms);
const dayAndYear = (ms: number) =>
  dates("day and year", { day: "2-digit", month: "short", year: "numeric" }).format(ms);

/** A moment that lies on a day in every zone near the shop's. */
const noon = (d: string) => {
  const utc = Date.parse(`${d}T12:00Z`);
  return utc + daysBetween(dayOf(utc), d) * 86_400_000;
};

/** A day as words, from its date. */
export const dayWords = (d: string) => longDay(noon(d));
export const fullDayWords = (d: string) => fullDay(noon(d));

export const dayAndTime = (iso: string) => `${dayAndYear(Date.parse(iso))}, ${clock(iso)}`;

/** "today", "yesterday", "12 days ago", then months. */
export function ago(iso: string, from = now()): string {
  const days = daysBetween(dayOf(Date.parse(iso)), dayOf(from));
  if (days <= 0) return "today";
  if (days === 1) return "yesterday";
  if (days < 60) return `${days} days ago`;
  return `${Math.round(days / 30.4)} months ago`;
}

/** Monday 14:05 in one line with how near it is: today at 16:15, tomorrow at 09:00, Friday at 10:30. */
export function whenWords(iso: string, from = now()): string {
  const days = daysBetween(dayOf(from), dayOf(Date.parse(iso)));
  return `${["today", "tomorrow"][days] ?? weekday(iso)} at ${clock(iso)}`;
}

/** 14:05 today, Mon 14:05 on another day. */
export const nearTime = (iso: string) => (dayOf(Date.parse(iso)) === today() ? clock(iso) : weekdayAndTime(iso));

/** Mira O.: how a person is called where there is little room. */
export function shortName(name: string): string {
  const [first = "", ...rest] = name.split(" ");
  const last = rest.at(-1);
  return last ? `${first} ${last.charAt(0)}.` : first;
}

/** A distance as a person says it: two digits are exact enough. */
export function about(distance: number): string {
  if (distance < 10) return "0";
  const step = 10 ** (Math.floor(Math.log10(distance)) - 1);
  return whole(Math.round(distance / step) * step);
}

const firstFive = ["first", "second", "third", "fourth", "fifth"];

/** Which time something is done, in words as far as people say them so. */
export const nth = (n: number) => firstFive[n - 1] ?? `${n}th`;
