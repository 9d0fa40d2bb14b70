import {
  CalendarDateTime,
  fromAbsolute,
  parseDate,
  toCalendarDate,
  toCalendarDateTime,
  toZoned,
} from "@internationalized/date";
import { now, ways } from "./shop";

// Days and times of day by the shop's clock, from moments and back. A day is written as 2026-05-04.

const shown = (ms: number) => fromAbsolute(ms, ways().zone);

/** The day of a moment. */
export const dayOf = (ms: number): string => toCalendarDate(shown(ms)).toString();

export const today = (): string => dayOf(now());

/** The first moment of a day. */
export const startOf = (day: string): number => parseDate(day).toDate(ways().zone).getTime();

export const addDays = (day: string, n: number): string => parseDate(day).add({ days: n }).toString();

/** How many days from one to another; negative for one before. */
export const daysBetween = (from: string, to: string): number => parseDate(to).compare(parseDate(from));

/** 0 for Monday. */
export const weekdayOf = (day: string): number => (new Date(`${day}T00:00Z`).getUTCDay() + 6) % 7;

/** Minutes since midnight that the clock shows at a moment. */
export function minutesOf(ms: number): number {
  const z = shown(ms);
  return z.hour * 60 + z.minute;
}

/** The moments at which the clock shows a time of a day: none where it is left out, two where it is shown twice. */
export function momentsOf(day: string, minutes: number): number[] {
  const d = parseDate(day);
  const wall = new CalendarDateTime(d.year, d.month, d.day, Math.floor(minutes / 60), minutes % 60);
  const found = (["earlier", "later"] as const)
    .map((which) => toZoned(wall, ways().zone, which))
    .filter((z) => toCalendarDateTime(z).compare(wall) === 0)
    .map((z) => z.toDate().getTime());
  return [...new Set(found)];
}

/** A moment as the platform's own field of date and time takes it: 2026-05-04T16:30. */
export const platformTime = (ms: number): string => toCalendarDateTime(shown(ms)).toString().slice(0, 16);

/** Whether a text is a day. */
export function isDay(text: string): boolean {
  try {
    return parseDate(text).toString() === text;
  } catch {
    return false;
  }
}
