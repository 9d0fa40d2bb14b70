import type { DueTask } from "../../api/client";
import type { Distance } from "../../ui/distance";
import { shortDay, whole } from "../../ui/format";
import { eventName } from "../../words/due";

/** What a person may report; the rest follows from the work. */
export const reported = [
  "soaked-ride",
  "mud",
  "water-crossing",
  "squeak",
  "grit-heard",
  "black-finger",
  "skip",
  "contamination",
  "stored-wet",
] as const;

/** Why a task stands as it does: the clause that binds, with its numbers, or the event and who reported it. */
export function whyLine(t: DueTask, d: Distance): string {
  const never = t.never ? "never noted; " : "";
  if (t.binds === "event" && t.event)
    return `${eventName(t.event)}, ${shortDay(t.event_on ?? "")}${t.event_by ? `, noted by ${t.event_by}` : ""}`;
  if (t.binds === "days") return `${never}${t.since_days} of ${t.every_days} days`;
  if (t.binds === "distance") {
    const km = (v: number) => whole(d.of(v));
    const guess = t.guess ? ", a guess: nothing measured yet" : "";
    const set = t.chains ? `, ${t.chains} chains in turn` : "";
    return `${never}${km(t.since_hard_km)} of ${km(t.every_hard_km ?? 0)} wear ${d.unit}${set}${guess}`;
  }
  return t.never ? "no interval; never noted" : "no interval";
}

type Coming = { due_on?: string | undefined; state: DueTask["state"] };

const daysTo = (on: string, today: string) => Math.round((Date.parse(on) - Date.parse(today)) / 86_400_000);

/** When it comes, wherever that is said: now, in days, or about on a day. */
export function comingLine(t: Coming, today: string): string {
  if (t.state === "due" || t.state === "overdue") return "now";
  if (!t.due_on) return "";
  const days = daysTo(t.due_on, today);
  if (days <= 0) return "today";
  if (days === 1) return "tomorrow";
  return days <= 13 ? `in ${days} days` : `about ${shortDay(t.due_on)}`;
}

/** The same in the workshop, where it is said how late something is. */
export function dueLine(t: Coming, today: string): string {
  const late = t.due_on ? -daysTo(t.due_on, today) : 0;
  if (late > 1) return `${late} days late`;
  return late === 1 ? "since yesterday" : comingLine(t, today);
}
