import type { Floor, FloorStint } from "../../api/client";
import { addDays, dayOf, startOf } from "../../ui/days";
import { hourOf } from "../../ui/format";

// The day rail as plain marks: lanes from top to bottom, and what lies in them as shares of the day's length.

export type Mark = {
  key: string;
  /** Shares of the rail's length, 0 to 1. */
  from: number;
  to: number;
  tag: string;
  title: string;
  /** Which of the rail's colours; the same for all of one job. */
  hue: number;
} & (
  | { kind: "work"; stint: FloorStint; go: Go; row: number } // the first of it; what would lie over another stands in another row
  | { kind: "stay"; waits: boolean } // hatched while nobody is at it
  | { kind: "off" } // outside somebody's hours
);

export type Lane = {
  key: string;
  label: string;
  person?: string;
  marks: Mark[];
  /** How many rows its work takes. */
  rows: number;
};

/** A promise. One flies back at the end of the day, inside the rail, and where it would lie over its neighbours. */
export type Flag = { job: string; tag: string; at: number; back: boolean; late: boolean; hue: number; row: number };

export type Rail = {
  from: number;
  until: number;
  hours: { at: number; label: string }[];
  people: Lane[];
  places: Lane[];
  /** Whether bikes or parts are ever as many as a place takes: the lanes of places are worth a look then. */
  contested: boolean;
  flags: Flag[];
  now: number | undefined;
};

export const hues = 6;
const hour = 3_600_000;
const quarter = hour / 4;

/** What is done in one go: at the same bike by the same person, with no more than a moment between. */
const inOneGo = (a: FloorStint, b: FloorStint, from: number) =>
  a.job === b.job && (a.state === "planned" || a.state === "ready") && b.state === "planned" && from <= moment;

const moment = 5 * 60_000;

/** How many pixels of the rail an hour takes at least, so that twenty minutes of work show their tag. */
export const hourWidth = 140;

/** How wide a tag and a flag are, in pixels: no work is drawn narrower than its tag. */
const tagWidth = 46;
const flagWidth = 54;

/** How narrow an hour gets on paper, beside what it is on the page: a flag at the end of the day must lie on the sheet. */
const onPaper = 2.6;

/** What somebody does in one go: the first piece of it, the first steps of the others, and the blocks that it is of. */
export type Go = { first: FloorStint; also: string[]; title: string; minutes: number };

const goFrom = (s: FloorStint): Go => ({ first: s, also: [], title: s.block ?? s.title, minutes: s.minutes });

function goOn(go: Go, s: FloorStint): void {
  const title = s.block ?? s.title;
  go.also.push(s.step);
  go.minutes += s.minutes;
  if (!go.title.split(" · ").includes(title)) go.title += ` · ${title}`;
}

/** A go as it is named to the server. */
export const named = (go: Go) => ({
  job: go.first.job,
  step: go.first.step,
  ...(go.also.length > 0 ? { also: go.also } : {}),
});

/** The work of one person, in order, in goes. */
export function goesOf(stints: FloorStint[]): Go[] {
  const goes: Go[] = [];
  let last: FloorStint | undefined;
  for (const s of stints) {
    const go = goes.at(-1);
    if (go && last && inOneGo(last, s, Date.parse(s.start) - Date.parse(last.end))) goOn(go, s);
    else goes.push(goFrom(s));
    last = s;
  }
  return goes;
}

/** The days that the rail can show: today, and those after it on which somebody works or something lies, three in all. */
export function daysOf(f: Floor): string[] {
  const days = new Set([dayOf(Date.parse(f.now))]);
  for (const p of f.people) for (const h of p.hours) days.add(dayOf(Date.parse(h.from)));
  for (const s of f.stints) days.add(dayOf(Date.parse(s.start)));
  const today = dayOf(Date.parse(f.now));
  return [...days]
    .sort()
    .filter((d) => d >= today)
    .slice(0, 3);
}

const evening = 5 * hour;

/** How much of what is past is shown today, unless all of it is asked for. */
const past = 2 * hour;

/** The rail of one day. */
export function railOf(f: Floor, day: string, nowMs: number, whole = false): Rail {
  const today = dayOf(nowMs) === day;
  const midnight = startOf(day);
  const tomorrow = startOf(addDays(day, 1));
  // Late in the evening the day goes on: who works then looks past midnight.
  const next = today ? Math.max(tomorrow, nowMs + evening) : tomorrow;
  const on = (iso: string) => Date.parse(iso) >= midnight && Date.parse(iso) < next;
  const within = (iso: string) => Math.min(Math.max(Date.parse(iso), midnight), next);
  const touches = (from: string, until: string) => Date.parse(from) < next && Date.parse(until) > midnight;

  const planned = [
    ...f.people.flatMap((p) =>
      p.hours.filter((h) => touches(h.from, h.until)).flatMap((h) => [within(h.from), within(h.until)]),
    ),
    ...f.stints.filter((s) => touches(s.start, s.end)).flatMap((s) => [within(s.start), within(s.end)]),
  ];
  // Long before anybody comes the rail is of the day that is to come: hours of nothing would fill it otherwise.
  const before = planned.length > 0 && nowMs < Math.min(...planned) - past;
  const times = today && !before ? [...planned, nowMs] : planned;
  const first = times.length ? Math.min(...times) : midnight + 8 * hour;
  const from = Math.floor((today && !whole ? Math.max(first, nowMs - past) : first) / hour) * hour;
  const until = Math.max(
    Math.ceil((times.length ? Math.max(...times) : midnight + 18 * hour) / hour) * hour,
    from + 4 * hour,
  );
  // A promise after everybody is gone stands at the end: it does not stretch the day.
  const share = (ms: number) => Math.min(Math.max((ms - from) / (until - from), 0), 1);

  /** Pixels as a share of a rail that is as narrow as it gets. */
  const wide = (pixels: number) => (pixels * hour) / (hourWidth * (until - from));

  const order = [...new Set(f.jobs.map((j) => j.job))];
  const hue = (job: string) => Math.max(order.indexOf(job), 0) % hues;

  const people = f.people.map((p): Lane => {
    const marks: Mark[] = [];
    let end = from;
    const hours = p.hours.filter((h) => touches(h.from, h.until)).sort((a, b) => a.from.localeCompare(b.from));
    const off = (a: number, b: number) => {
      if (b > a) marks.push({ kind: "off", key: `off ${a}`, from: share(a), to: share(b), tag: "", title: "", hue: 0 });
    };
    for (const h of hours) {
      off(end, within(h.from));
      end = Math.max(end, within(h.until));
    }
    off(end, until);
    let before = 0; // when the work before ended
    const mine = gathered(
      f.stints.filter((s) => s.person === p.person.id && touches(s.start, s.end) && within(s.end) > from),
    );
    for (const s of mine) {
      const last = marks.at(-1);
      const to = share(within(s.end));
      const gap = within(s.start) - before;
      before = within(s.end);
      if (last?.kind === "work" && inOneGo(last.stint, s, gap)) {
        last.to = to;
        goOn(last.go, s);
        last.title = last.go.title;
        continue;
      }
      const key = `${s.job} ${s.step} ${s.state} ${s.start}`;
      const at = share(within(s.start));
      const go = goFrom(s);
      const { title } = go;
      marks.push({ kind: "work", key, from: at, to, tag: s.tag, title, hue: hue(s.job), stint: s, go, row: 0 });
    }
    return { key: p.person.id, label: p.person.name, person: p.person.id, marks, rows: inRows(marks, wide(tagWidth)) };
  });

  const places = f.places.flatMap((p): Lane[] => {
    const here = f.stays.filter((s) => s.place === p.place && touches(s.from, s.until) && within(s.until) > from);
    const units = Math.max(p.place === "stand" ? p.count : 0, ...here.map((s) => s.unit + 1), 0);
    return Array.from({ length: units }, (_, unit) => ({
      key: `${p.place} ${unit}`,
      label:
        units > 1 || p.count > 1 ? `${placeWords[p.place] ?? p.place} ${unit + 1}` : (placeWords[p.place] ?? p.place),
      rows: 1,
      marks: here
        .filter((s) => s.unit === unit)
        .map((s) => ({
          kind: "stay" as const,
          key: `${s.job} ${s.from} ${s.title}`,
          from: share(within(s.from)),
          to: share(within(s.until)),
          tag: s.tag,
          title: s.waits ? s.title : "",
          hue: hue(s.job),
          waits: s.waits,
        })),
    }));
  });

  return {
    from,
    until,
    hours: Array.from({ length: Math.round((until - from) / hour) + 1 }, (_, i) => ({
      at: share(from + i * hour),
      label: hourOf(from + i * hour, i === 0),
    })),
    people,
    places,
    contested: f.places.some((p) => p.count > 0 && mostAtOnce(f.stays.filter((s) => s.place === p.place)) >= p.count),
    flags: flagsOf(f, on, share, hue, wide(flagWidth)),
    now: nowMs >= from && nowMs <= until ? share(nowMs) : undefined,
  };
}

/** Work with what was done at one bike gathered: hands that went to and fro between bikes draw each bike once. */
function gathered(stints: FloorStint[]): FloorStint[] {
  const all: FloorStint[] = [];
  for (const s of stints) {
    const i =
      s.state === "done"
        ? all.findIndex(
            (a) => a.state === "done" && a.job === s.job && Date.parse(s.start) - Date.parse(a.end) < gather,
          )
        : -1;
    const before = all[i];
    if (before) all[i] = { ...before, end: s.end, minutes: before.minutes + s.minutes, steps: before.steps + s.steps };
    else all.push(s);
  }
  return all;
}

const gather = hour / 2;

/** Puts work that would lie over other, as it is drawn, into rows of its own; how many there are. */
function inRows(marks: Mark[], least: number): number {
  const ends: number[] = [];
  for (const m of marks) {
    if (m.kind !== "work") continue;
    const free = ends.findIndex((end) => end <= m.from + 1e-9);
    m.row = free < 0 ? ends.length : free;
    ends[m.row] = Math.max(m.to, m.from + least);
  }
  return Math.max(ends.length, 1);
}

/** How many of some stays there are at the same time. */
function mostAtOnce(stays: Floor["stays"]): number {
  return Math.max(0, ...stays.map((a) => stays.filter((b) => b.from <= a.from && a.from < b.until).length));
}

/** The promises of a day: those close together in rows above each other, or flying to either side. */
function flagsOf(
  f: Floor,
  on: (iso: string) => boolean,
  share: (ms: number) => number,
  hue: (job: string) => number,
  width: number,
): Flag[] {
  const flags: Flag[] = [];
  const rows: [from: number, to: number][][] = [];
  const promised = f.jobs.filter((j) => j.promised_at && on(j.promised_at));
  // From the end of the day, where there is room on one side only.
  for (const j of promised.toSorted((a, b) => (b.promised_at ?? "").localeCompare(a.promised_at ?? ""))) {
    const at = share(Date.parse(j.promised_at ?? ""));
    const ways: [number, number][] = [
      [at, at + width],
      [at - width, at],
    ];
    if (at + width * onPaper > 1) ways.shift(); // it stays inside the rail
    const free = ways.flatMap((way) => {
      const row = rows.findIndex((r) => r.every(([from, to]) => way[1] <= from || to <= way[0]));
      return row < 0 ? [] : [{ way, row }];
    })[0];
    const { way, row } = free ?? { way: ways[0] as [number, number], row: rows.length };
    rows[row] = [...(rows[row] ?? []), way];
    flags.push({ job: j.job, tag: j.tag, at, back: way[0] < at, late: (j.late_min ?? 0) > 0, hue: hue(j.job), row });
  }
  return flags.reverse();
}

export const placeWords: Record<string, string> = {
  stand: "Stand",
  tub: "Tub",
  tank: "Tank",
  pot: "Wax pot",
  rack: "Rack",
  "parts-washer": "Parts washer",
};

/** The time at a share of the rail, to the quarter of an hour that is nearest. */
export function timeAt(rail: Rail, share: number): number {
  const ms = rail.from + Math.min(Math.max(share, 0), 1) * (rail.until - rail.from);
  return Math.round(ms / quarter) * quarter;
}

/** The middle of a tag, which is what differs between tags: 0142 of B-0142-K. */
export const shortTag = (tag: string) => tag.split("-")[1] ?? tag;
