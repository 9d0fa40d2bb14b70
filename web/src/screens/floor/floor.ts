import type { DelayedJob, Floor, FloorCost, FloorJob } from "../../api/client";
import { hours } from "../jobs/jobs";
import { placeWords, shortTag } from "./rail";

// What the floor says, in words.

const place = (p: string | undefined) => (placeWords[p ?? ""] ?? p ?? "").toLowerCase();

/** What holds a late job back. */
export function boundWords(j: FloorJob): string {
  switch (j.bound_by) {
    case "person":
      return `${j.bound_what} is at other work`;
    case "hours":
      return `${j.bound_what}'s hours end`;
    case "place":
      return `every ${place(j.bound_what)} is taken`;
    case "wait":
      return `“${j.bound_what}” takes its time`;
    case "arrival":
      return "it comes too late";
    default:
      return "the work takes that long";
  }
}

/** One line for each promise that will not be kept. */
export function lateWords(f: Floor): { job: string; tag: string; says: string }[] {
  return f.jobs
    .filter((j) => (j.late_min ?? 0) > 0)
    .map((j) => ({ job: j.job, tag: j.tag, says: `would be ${hours(j.late_min ?? 0)} late: ${boundWords(j)}` }));
}

/** What would help, of the best. */
export function helpWords(f: Floor): string | undefined {
  const best = f.helps[0];
  if (!best) return undefined;
  const late = f.jobs.reduce((sum, j) => sum + (j.late_min ?? 0) * (j.waiting ? 3 : 1), 0);
  const does = best.save_min >= late ? "would keep every promise" : `would make up ${hours(best.save_min)}`;
  return best.person ? `An hour more of ${best.person} ${does}.` : `One more ${place(best.place)} ${does}.`;
}

/** Why the wall moved. */
export function becauseWords(b: Floor["because"][number]): string {
  const what = b.title ? `“${b.title}” of ${shortTag(b.tag ?? "")}` : shortTag(b.tag ?? "");
  switch (b.what) {
    case "better":
      return "a better plan was found";
    case "away":
      return `${b.title} is away`;
    case "came":
      return `${what} came in`;
    case "left":
      return b.min === 1 ? "a job is done or called off" : `${b.min} jobs are done or called off`;
    case "took-longer":
      return `${what} takes ${b.min} min longer`;
    case "began-late":
      return `${what} began ${b.min} min late`;
    case "not-begun":
      return `nobody has begun ${what}`;
    default:
      return "promises, hours or places changed";
  }
}

/** Whom a change makes late, and by how much. */
export const pushWords = (list: DelayedJob[]) => list.map((p) => `${shortTag(p.tag)} by ${hours(p.by_min)}`).join(", ");

/** What a change on the wall would cost. */
export function costWords(c: FloorCost): string {
  const said: string[] = [];
  said.push(c.kept ? "It can be kept." : `It would be ${hours(c.late_min)} late.`);
  if (c.pushed.length > 0) said.push(`It makes late: ${pushWords(c.pushed)}.`);
  if (c.saved.length > 0) said.push(`It helps: ${pushWords(c.saved)}.`);
  said.push(
    c.moves === 0
      ? "Nothing else moves."
      : c.moves === 1
        ? "One piece of work moves."
        : `${c.moves} pieces of work move.`,
  );
  if (c.later_min > 0) said.push(`All together, jobs are done ${hours(c.later_min)} later.`);
  return said.join(" ");
}
