import { useSyncExternalStore } from "react";
import { type BenchEntry, type BenchQuestion, type Instrument, idempotencyKey } from "../../api/client";

// What lies on this device's bench: everything typed and not recorded yet. A reload, a look at some
// other place, or a change of person loses none of it.

export type Entry = { text: string; marks: Record<string, boolean>; look: string };

export type Bench = {
  tag: string | null; // null: a walk-in
  back?: string | undefined; // where whoever put the bike here came from, and goes back to
  drivetrain: { kind: string; sprockets: string; motor: string; carry: boolean };
  instrument: string | null; // null: the first on the bench
  links: string;
  newLength: string;
  entries: Entry[];
  at: number; // place being read, from 1
  findings: string[];
  note: string;
  odometer?: string | undefined; // as typed, in the shop's unit
  key: string; // of the write that records this
  cleared?: Omit<Bench, "cleared"> | undefined; // what lay there before somebody cleared it
};

const noEntry: Entry = { text: "", marks: {}, look: "" };
const maxPlaces = 8;

export function emptyBench(places: number, keep?: Pick<Bench, "tag" | "instrument">): Bench {
  return {
    tag: keep?.tag ?? null,
    drivetrain: { kind: "", sprockets: "", motor: "", carry: false },
    instrument: keep?.instrument ?? null,
    links: "",
    newLength: "",
    entries: Array.from({ length: places }, () => noEntry),
    at: 1,
    findings: [],
    note: "",
    key: idempotencyKey(),
  };
}

export const isEmpty = (e: Entry) => e.text.trim() === "" && Object.keys(e.marks).length === 0 && e.look === "";

export type Action =
  | { kind: "typed"; text: string }
  | { kind: "marked"; mark: number; dropsIn: boolean }
  | { kind: "looked"; look: string }
  | { kind: "place"; at: number }
  | { kind: "more-places" }
  | { kind: "fewer-places" }
  | { kind: "instrument"; id: string }
  | { kind: "links"; links: string }
  | { kind: "new-length"; text: string }
  | { kind: "drivetrain"; change: Partial<Bench["drivetrain"]> }
  | { kind: "finding"; code: string }
  | { kind: "note"; text: string }
  | { kind: "odometer"; text: string }
  | { kind: "bike"; tag: string | null; back?: string }
  | { kind: "cleared"; places: number }
  | { kind: "put-back" }
  | { kind: "recorded"; key: string; places: number }
  | { kind: "refused" };

/** What an action makes of the bench. */
export function next(b: Bench, a: Action): Bench {
  const entry = (change: Partial<Entry>): Bench => ({
    ...b,
    cleared: undefined, // work goes on: what was cleared is not wanted back
    entries: b.entries.map((e, i) => (i === b.at - 1 ? { ...e, ...change } : e)),
  });
  switch (a.kind) {
    case "typed":
      return entry({ text: a.text });
    case "marked":
      return entry({ marks: { ...b.entries[b.at - 1]?.marks, [a.mark]: a.dropsIn } });
    case "looked":
      return entry({ look: b.entries[b.at - 1]?.look === a.look ? "" : a.look });
    case "place":
      return { ...b, at: Math.min(Math.max(a.at, 1), b.entries.length) };
    case "more-places":
      return b.entries.length >= maxPlaces ? b : { ...b, entries: [...b.entries, noEntry], at: b.entries.length + 1 };
    case "fewer-places": {
      if (b.entries.length <= 1) return b;
      const entries = b.entries.slice(0, -1);
      return { ...b, entries, at: Math.min(b.at, entries.length) };
    }
    case "instrument": {
      // Another tool reads in another way: what was typed for the one is not the other's, but it can be
      // put back.
      if (a.id === b.instrument) return b;
      const { cleared: _, ...before } = b;
      return {
        ...b,
        instrument: a.id,
        links: "",
        newLength: "",
        at: 1,
        entries: b.entries.map(() => noEntry),
        ...(b.entries.some((e) => !isEmpty(e)) ? { cleared: before } : {}),
      };
    }
    case "links":
      return { ...b, links: a.links };
    case "new-length":
      return { ...b, newLength: a.text };
    case "drivetrain":
      return { ...b, drivetrain: { ...b.drivetrain, ...a.change } };
    case "finding": {
      const findings = b.findings.includes(a.code) ? b.findings.filter((f) => f !== a.code) : [...b.findings, a.code];
      return { ...b, findings };
    }
    case "note":
      return { ...b, note: a.text };
    case "odometer":
      return { ...b, odometer: a.text };
    case "bike":
      // Readings of a walk-in are put on the bike that is chosen; those of another bike are not.
      if (a.tag === b.tag) return { ...b, back: a.back };
      return b.tag === null || a.tag === null
        ? { ...b, tag: a.tag, back: a.back, key: idempotencyKey() }
        : { ...emptyBench(b.entries.length, { tag: a.tag, instrument: b.instrument }), back: a.back };
    case "cleared": {
      const { cleared: _, ...before } = b;
      return { ...emptyBench(a.places, b), cleared: before };
    }
    case "put-back":
      return b.cleared ?? b;
    case "recorded":
      return a.key === b.key ? emptyBench(a.places, b) : b; // something else lies there by now
    case "refused":
      return { ...b, key: idempotencyKey() }; // sent again with other readings it is another write
  }
}

/** Whether there is anything on the bench to clear. */
export const isUsed = (b: Bench) => b.entries.some((e) => !isEmpty(e)) || b.findings.length > 0 || b.note !== "";

/** The place to go to after the one being read: the next that is empty, or null when all are read. */
export function nextEmpty(b: Bench): number | null {
  for (let i = 1; i < b.entries.length; i++) {
    const at = ((b.at - 1 + i) % b.entries.length) + 1;
    const e = b.entries[at - 1];
    if (e && isEmpty(e)) return at;
  }
  return null;
}

/** What is typed, as the server is asked; null while there is no tool to ask about. */
export function question(b: Bench, tool: Instrument | undefined): BenchQuestion | null {
  if (!tool) return null;
  const whole = (text: string) => (/^\d{1,4}$/.test(text.trim()) ? Number(text.trim()) : undefined);
  const q: BenchQuestion = { instrument_id: tool.id, entries: [] };
  b.entries.forEach((e, i) => {
    if (isEmpty(e)) return;
    const entry: BenchEntry = { place: i + 1 };
    if (tool.kind === "gauge-dropin") {
      entry.marks = Object.entries(e.marks).map(([mark, drops_in]) => ({ mark_pct: Number(mark), drops_in }));
    } else if (tool.kind === "pull-off") entry.look = e.look as NonNullable<BenchEntry["look"]>;
    else entry.text = e.text;
    q.entries.push(entry);
  });
  if (b.tag) q.tag = b.tag;
  const links = whole(b.links);
  if (links !== undefined) q.links = links;
  if (b.newLength.trim()) q.new_length = b.newLength;
  if (b.findings.length > 0) q.findings = b.findings;
  const sprockets = whole(b.drivetrain.sprockets);
  q.drivetrain = {
    kind: b.drivetrain.kind as NonNullable<NonNullable<BenchQuestion["drivetrain"]>["kind"]>,
    motor: b.drivetrain.motor as NonNullable<NonNullable<BenchQuestion["drivetrain"]>["motor"]>,
    carry: b.drivetrain.carry,
    ...(sprockets === undefined || sprockets < 1 || sprockets > 14 ? {} : { sprockets }),
  };
  return q;
}

const slot = "pony.bench";
const watchers = new Set<() => void>();
let bench: Bench | null = null;

function isBench(v: unknown): v is Bench {
  const b = v as Bench;
  return (
    typeof v === "object" &&
    v !== null &&
    Array.isArray(b.entries) &&
    b.entries.length > 0 &&
    b.entries.every((e) => typeof e.text === "string") &&
    typeof b.key === "string" &&
    typeof b.at === "number" &&
    Array.isArray(b.findings) &&
    typeof b.drivetrain === "object"
  );
}

function current(places: number): Bench {
  if (bench) return bench;
  try {
    const stored: unknown = JSON.parse(localStorage.getItem(slot) ?? "null");
    if (isBench(stored)) bench = stored;
  } catch {
    // nothing usable there
  }
  bench ??= emptyBench(places);
  return bench;
}

function act(places: number, action: Action): void {
  bench = next(current(places), action);
  try {
    localStorage.setItem(slot, JSON.stringify(bench));
  } catch {
    // storage is full or shut: the page still has it
  }
  for (const w of watchers) w();
}

const watch = (w: () => void) => {
  watchers.add(w);
  return () => watchers.delete(w);
};

/** The bench of this device, and how to change it. */
export function useBench(places: number): readonly [Bench, (a: Action) => void] {
  const b = useSyncExternalStore(watch, () => current(places));
  return [b, (a) => act(places, a)];
}

/** Puts a bike on the bench from elsewhere; where it says so, what is recorded leads back there. */
export const useBenchBike = () => (tag: string, back?: string) =>
  act(3, { kind: "bike", tag, ...(back === undefined ? {} : { back }) });
