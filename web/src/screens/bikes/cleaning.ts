import type { Condition, Intake } from "../../api/client";
import { momentOf, typedWhen } from "../../ui/when";

/** Minutes as a person says them. */
export function minutes(least: number, most = least): string {
  const one = (m: number) => (m < 120 ? `${m} min` : `${Math.floor(m / 60)} h${m % 60 === 0 ? "" : ` ${m % 60} min`}`);
  return least === most ? one(least) : `${one(least)} to ${one(most)}`;
}

/** What was seen, before anybody chose: nothing is graded until somebody looked. */
export type Seen = Partial<Pick<Condition, "frame_grade" | "drivetrain_grade">> &
  Omit<Condition, "frame_grade" | "drivetrain_grade">;

/** What was seen and said, before the bike is taken in. */
export type Coming = Seen & {
  complaints?: string[];
  reports?: string;
  wants?: string;
  promised?: string;
  waiting?: boolean;
  guide?: boolean;
  /** The route that was promised. */
  route?: string;
};

/** The intake to send; undefined until somebody looked. */
export function toIntake(c: Coming): Intake | undefined {
  const { complaints, reports, wants, promised, waiting, guide, route, ...seen } = c;
  const question = toCondition(seen);
  if (!question) return undefined;
  const at = promised ? momentOf(promised) : undefined;
  return {
    ...question,
    complaints: complaints ?? [],
    ...(reports?.trim() ? { reports: reports.trim() } : {}),
    ...(wants?.trim() ? { wants: wants.trim() } : {}),
    ...(guide ? { guide } : {}),
    ...(route ? { route } : {}),
    ...(at ? { promised_at: at } : {}),
    ...(waiting ? { waiting } : {}),
  };
}

/** What was seen and said of a bike that was taken in, to be looked at again. */
export function fromIntake(a: Intake): Coming {
  const { promised_at, ...rest } = a;
  return { ...rest, ...(promised_at ? { promised: typedWhen(promised_at) } : {}) };
}

export const isSeen = (v: unknown): v is Seen => typeof v === "object" && v !== null && !Array.isArray(v);

/** What was seen of it, without what was said and asked for; nothing until both grades are given. */
export function conditionOf({
  complaints: _c,
  reports: _r,
  wants: _w,
  promised,
  waiting: _t,
  guide: _g,
  route: _u,
  ...s
}: Coming) {
  const wanted_at = promised ? momentOf(promised) : undefined;
  return toCondition({ ...s, ...(wanted_at ? { wanted_at } : {}) });
}

export function toCondition(s: Seen): Condition | undefined {
  const { frame_grade, drivetrain_grade, bottle_id, ...seen } = s;
  const rest = { ...seen, ...(bottle_id ? { bottle_id } : {}) };
  return frame_grade === undefined || drivetrain_grade === undefined
    ? undefined
    : { frame_grade, drivetrain_grade, ...rest };
}
