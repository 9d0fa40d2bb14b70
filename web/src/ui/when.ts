import { addDays, dayOf, isDay, minutesOf, momentsOf, startOf, weekdayOf } from "./days";
import { clock, fullDay, once, twelveHours } from "./format";
import { now, ways } from "./shop";

// Days and times as people type them, by the shop's clock: "29.11.", "tomorrow", "fri 16", "4:30 pm".

/** What was typed: nothing, a day, a moment, one of two moments when clocks go back, or what is none and why. */
export type When =
  | { is: "nothing" }
  | { is: "day"; day: string }
  | { is: "moment"; at: number }
  | { is: "twice"; first: number; second: number }
  | { is: "none"; why: string };

const weekdays = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"];
const months = "january february march april may june july august september october november december".split(" ");

const named = (names: string[], word: string) =>
  word.length >= 3 ? names.findIndex((n) => n.startsWith(word.replace(/\.$/, ""))) : -1;

/** Whether this shop writes the month before the day. */
export function monthFirst(): boolean {
  const { locale } = ways();
  const format = once(`order ${locale}`, () => new Intl.DateTimeFormat(locale, { day: "numeric", month: "numeric" }));
  const parts = format.formatToParts(0);
  return parts.findIndex((p) => p.type === "month") < parts.findIndex((p) => p.type === "day");
}

type Found = { day?: string; minutes?: number; second?: boolean; why?: string };

/** A day of a month; of the year that is nearest in the direction in which one looks, where no year is said. */
function dated(d: number, m: number, year: string | undefined, ahead: boolean, from: string): Found {
  const two = (n: number) => String(n).padStart(2, "0");
  const of = (y: number) => `${y}-${two(m)}-${two(d)}`;
  if (year !== undefined) {
    const day = of(year.length === 2 ? 2000 + Number(year) : Number(year));
    return isDay(day) ? { day } : { why: "There is no such day." };
  }
  const own = Number(from.slice(0, 4));
  const near = (ahead ? [own, own + 1, own + 2, own + 3, own + 4] : [own, own - 1, own - 2, own - 3, own - 4])
    .map(of)
    .filter((day) => isDay(day) && (ahead ? day >= from : day <= from))[0];
  return near ? { day: near } : { why: "There is no such day." };
}

/** A time of day: 16, 16:30, 16.30, 4pm, 4:30 p.m., noon. */
function timed(text: string): number | undefined {
  if (text === "noon") return 720;
  const packed = /^([01]\d|2[0-3])([0-5]\d)$/.exec(text); // 1630
  if (packed) return Number(packed[1]) * 60 + Number(packed[2]);
  const t = /^(\d{1,2})(?:[:.h](\d{2}))?\s*(?:h|o'clock|uhr)?\s*(a\.?m\.?|p\.?m\.?)?$/.exec(text);
  if (!t) return undefined;
  let hour = Number(t[1]);
  const minute = Number(t[2] ?? 0);
  if (t[3]) {
    if (hour < 1 || hour > 12) return undefined;
    hour = (hour % 12) + (t[3].startsWith("p") ? 12 : 0);
  }
  return hour < 24 && minute < 60 ? hour * 60 + minute : undefined;
}

/** A time of day as the shop writes it: 16:30, or 4:30 pm. What is kept is 16:30, and 24:00 at the end of a day. */
export function typedTime(kept: string): string {
  const [hour = 0, minute = 0] = kept.split(":").map(Number);
  if (!twelveHours() || hour === 24) return kept;
  const half = minute === 0 ? "" : `:${String(minute).padStart(2, "0")}`;
  return `${hour % 12 || 12}${half} ${hour < 12 ? "am" : "pm"}`;
}

/** A time of day that was typed, as it is kept; undefined for what is none. */
export function readTime(text: string): string | undefined {
  const plain = text.normalize("NFKC").trim().toLowerCase();
  const minutes = /^(24[:.]00|midnight)$/.test(plain) ? 1440 : timed(plain);
  if (minutes === undefined) return undefined;
  return `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
}

/** Days that are listed, as they are kept; what is none stays as it was typed, for the server to say so. */
export const readDays = (text: string): string[] =>
  text
    .split(/[,;\n]+/)
    .map((t) => t.trim())
    .filter(Boolean)
    .flatMap((t) => {
      const w = readWhen(t, "day");
      if (w.is === "day") return [w.day];
      const each = t.split(/\s+/);
      return each.length > 1 && each.every((d) => readWhen(d, "day").is === "day") ? readDays(each.join(",")) : [t];
    });

export const typedDays = (days: string[]) => days.map(typedDay).join(", ");

/** Takes the day off the front of a text; what is left is the time. */
function takeDay(text: string, ahead: boolean, from: string): [Found, string] {
  const iso = /^(\d{4}-\d{2}-\d{2})(?:[t\s,]+|$)(.*)$/.exec(text);
  if (iso) return [isDay(iso[1] ?? "") ? { day: iso[1] ?? "" } : { why: "There is no such day." }, iso[2] ?? ""];
  const word = /^(?:(?:next|this|on)\s+)?([a-z]+)\.?,?(?:\s+|$)(.*)$/.exec(text);
  if (word) {
    const [, name = "", rest = ""] = word;
    const near = ({ today: 0, tomorrow: 1, yesterday: -1 } as Record<string, number>)[name];
    if (near !== undefined) return [{ day: addDays(from, near) }, rest];
    const weekday = named(weekdays, name);
    if (weekday >= 0) {
      const dates = takeDay(rest, ahead, from); // "Fri 4 Dec": the date says more than its weekday
      if (dates[0].day && /^(\d{1,2}[./]\s?\d|\d{1,2}\s+[a-z]|[a-z]+\s+\d)/.test(rest)) return dates;
      const away = (weekday - weekdayOf(from) + 7) % 7;
      return [{ day: addDays(from, ahead ? away : away - (away === 0 ? 0 : 7)) }, rest];
    }
    const month = named(months, name);
    const day = /^(\d{1,2})(?:st|nd|rd|th)?,?(?:\s+(\d{4}))?(?:,?\s+|$)(.*)$/.exec(rest);
    if (month >= 0 && day) return [dated(Number(day[1]), month + 1, day[2], ahead, from), day[3] ?? ""];
  }
  const worded = /^(\d{1,2})(?:st|nd|rd|th|\.)?\s+([a-z]{3,})\.?,?(?:\s+(\d{4}))?(?:,?\s+|$)(.*)$/.exec(text);
  if (worded && named(months, worded[2] ?? "") >= 0)
    return [dated(Number(worded[1]), named(months, worded[2] ?? "") + 1, worded[3], ahead, from), worded[4] ?? ""];
  const dotted = /^(\d{1,2})\.\s?(\d{1,2})\.(?:(\s?\d{4}|\d{2})(?!\d|[:.h]))?,?(?:\s+|$)(.*)$/.exec(text);
  if (dotted) return [dated(Number(dotted[1]), Number(dotted[2]), dotted[3]?.trim(), ahead, from), dotted[4] ?? ""];
  const slashed = /^(\d{1,2})[/-](\d{1,2})(?:[/-](\d{4}|\d{2}))?,?(?:\s+|$)(.*)$/.exec(text);
  if (slashed) {
    const [first, second] = [Number(slashed[1]), Number(slashed[2])];
    const [d, m] = monthFirst() ? [second, first] : [first, second];
    return [dated(d, m, slashed[3], ahead, from), slashed[4] ?? ""];
  }
  return [{}, text];
}

/** What was typed, read by the shop's clock. Ahead is towards what is to come, as of a promise. */
export function readWhen(text: string, ask: "day" | "moment", ahead = true, from = now()): When {
  const plain = text.normalize("NFKC").trim().toLowerCase().replace(/\s+/g, " ");
  if (plain === "") return { is: "nothing" };
  const soon = /^(?:in )?(\d{1,3})\s?(min|minutes?|h|hours?)$/.exec(plain);
  if (ask === "moment" && soon && (plain.startsWith("in ") || !/h$/.test(plain)))
    return { is: "moment", at: from + Number(soon[1]) * (soon[2]?.startsWith("m") ? 60_000 : 3_600_000) };
  const second = / \(?second\)?$/.test(plain);
  const [found, rest] = takeDay(plain.replace(/ \(?(first|second)\)?$/, ""), ahead, dayOf(from));
  if (found.why) return { is: "none", why: found.why };
  const left = rest.replace(/^(at|by|,)\s*/, "").trim();
  if (ask === "day")
    return found.day && left === ""
      ? { is: "day", day: found.day }
      : { is: "none", why: `This is no day: type ${example("day")}.` };
  const minutes = timed(left);
  if (left !== "" && minutes === undefined) return { is: "none", why: `This is no time: type ${example("moment")}.` };
  if (minutes === undefined)
    return { is: "none", why: `At what time? Add one, such as ${twelveHours() ? "4 pm" : "16:00"}.` };
  let day = found.day ?? dayOf(from);
  const over = ahead && day === dayOf(from) && minutes <= minutesOf(from);
  if (over && !found.day) day = addDays(day, 1); // a time alone is the next such
  if (over && found.day && weekdayNamed(plain)) day = addDays(day, 7);
  const at = momentsOf(day, minutes);
  const [one, two] = at;
  if (one === undefined) return { is: "none", why: "The clocks go forward over this time: it is not shown that day." };
  if (two === undefined) return { is: "moment", at: one };
  if (second) return { is: "moment", at: two };
  return / \(?first\)?$/.test(plain) ? { is: "moment", at: one } : { is: "twice", first: one, second: two };
}

const weekdayNamed = (plain: string) =>
  named(weekdays, /^(?:(?:next|this|on) )?([a-z]+)/.exec(plain)?.[1] ?? "") >= 0 &&
  !/\d{1,2}[./-]\d|\d [a-z]{3}/.test(plain);

/** What may be typed, in the shop's form. */
export const example = (ask: "day" | "moment") =>
  ask === "day"
    ? `${typedDay("2026-11-29")} or tomorrow`
    : `${twelveHours() ? "fri 4 pm" : "fri 16:00"}, tomorrow ${twelveHours() ? "9:30 am" : "9:30"}, ${typedDay("2026-11-29")} ${twelveHours() ? "4 pm" : "16:00"}`;

/** A day in the shop's form, as its field holds it. */
export function typedDay(day: string): string {
  const { locale } = ways();
  const options = { timeZone: "UTC", day: "2-digit", month: "2-digit", year: "numeric" } as const;
  const own = once(`typed day ${locale}`, () => new Intl.DateTimeFormat(locale, options)).format(
    Date.parse(`${day}T12:00Z`),
  );
  return takeDay(own.toLowerCase(), true, day)[0].day === day ? own : day; // of a form that is not read here
}

/** A day that is kept, as its field holds it. */
export const heldDay = (day: string | undefined) => (day ? typedDay(day) : "");

/** A moment in the shop's form, as its field holds it: typed back it is that moment, to the minute. */
export function typedWhen(at: string | number): string {
  const ms = Math.floor(new Date(at).getTime() / 60_000) * 60_000;
  const day = dayOf(ms);
  const twin = momentsOf(day, minutesOf(ms));
  const which = twin.length === 2 ? (twin[0] === ms ? " (first)" : " (second)") : "";
  return `${typedDay(day)}, ${clock(ms)}${which}`;
}

/** What was understood, in full. */
export function whenInFull(w: When): string | undefined {
  switch (w.is) {
    case "day":
      return fullDay(startOf(w.day));
    case "moment":
      return `${fullDay(w.at)}, ${clock(w.at)}`;
    default:
      return undefined;
  }
}

/** The moment of a text that was understood, as the contract takes it. */
export function momentOf(text: string, from = now()): string | undefined {
  const w = readWhen(text, "moment", true, from);
  return w.is === "moment" ? new Date(w.at).toISOString() : undefined;
}
