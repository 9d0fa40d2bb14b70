import type { FloorRules } from "../../api/client";
import { readTime, typedTime } from "../../ui/when";

// Hours of work as they are typed: 08:30-12:30, 13:00-17:30.

export const week = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"] as const;

type Stretches = FloorRules["hours"][string];

export const typedHours = (day: Stretches | undefined) =>
  (day ?? []).map((s) => `${typedTime(s.from)}-${typedTime(s.until)}`).join(", ");

/** The stretches of a day; undefined for what is none. Nothing typed is a day off. */
export function readHours(text: string): Stretches | undefined {
  const parts = text
    .split(/[,;]/)
    .map((p) => p.trim())
    .filter(Boolean);
  const stretches: Stretches = [];
  for (const p of parts) {
    const [from, until, ...more] = p.split(/\s*(?:-|–|\bto\b)\s*/).map(readTime);
    if (from === undefined || until === undefined || more.length > 0) return undefined;
    stretches.push({ from, until });
  }
  return stretches;
}

/** A person's own hours, where they are not the shop's: mon 09:00-13:00; wed off. */
export const typedWeek = (hours: FloorRules["hours"] | undefined) =>
  week
    .filter((d) => hours?.[d] !== undefined)
    .map((d) => `${d.slice(0, 3)} ${typedHours(hours?.[d]) || "off"}`)
    .join("; ");

/** Reads what typedWeek writes; undefined for what is none. */
export function readWeek(text: string): FloorRules["hours"] | undefined {
  const all: FloorRules["hours"] = {};
  for (const part of text
    .split(";")
    .map((p) => p.trim())
    .filter(Boolean)) {
    const [name = "", ...rest] = part.split(/\s+/);
    const day = name.length >= 3 ? week.find((d) => d.startsWith(name.toLowerCase())) : undefined;
    const hours = rest.join(" ") === "off" ? [] : readHours(rest.join(" "));
    if (!day || !hours || rest.length === 0) return undefined;
    all[day] = hours;
  }
  return all;
}
