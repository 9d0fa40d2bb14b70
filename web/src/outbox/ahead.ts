import type {
  BlockAction,
  FindingRow,
  HandBack,
  Job,
  Schemas,
  StepAction,
  StepView,
  WaitAction,
  WaitView,
} from "../api/client";
import { bodyOf, type Kept, ownIdOf, stepOf } from "./kinds";

// How a job stands once what this device kept has arrived. What comes before what, what waits for what and what a fault
// withholds stand in the job as the core laid it out: here it is only gone through, as long as the server cannot be asked.

type Words = Schemas["JobWords"];

const over = (s: StepView) => s.state === "done" || s.state === "skipped";

/** The job with what was kept about it, at a time by the server's clock, for whoever is at this device. */
export function ahead(job: Job, kept: Kept[], me: string, at: number, words?: Words): Job {
  const j = structuredClone(job);
  for (const k of kept) if (k.job === j.id) apply(j, k, words);
  stand(j, at, me, words);
  return j;
}

function apply(j: Job, k: Kept, words: Words | undefined): void {
  const at = k.at + k.behind;
  const iso = new Date(at).toISOString();
  const body = bodyOf(k);
  switch (k.operation) {
    case "doBlock":
      press(j, k, body as BlockAction, at, words);
      return;
    case "doStep":
      step(j, k, body as StepAction, at, words);
      return;
    case "addFinding": {
      const f = body as Schemas["NewFinding"];
      const kind = words?.findings.find((w) => w.code === f.code);
      const severity = kind?.fixed
        ? kind.severity
        : ((f.severity ?? kind?.severity ?? "note") as FindingRow["severity"]);
      const row = { id: ownIdOf(k) ?? k.key, code: f.code, severity, found_at: iso, by: k.author.name };
      j.findings.push({ ...row, ...(f.place ? { place: f.place } : {}), ...(f.note ? { note: f.note } : {}) });
      return;
    }
    case "resolveFinding": {
      const row = j.findings.find((f) => f.id === stepOf(k));
      if (!row) return;
      row.resolution = body.resolution as NonNullable<FindingRow["resolution"]>;
      row.resolved_at = iso;
      row.resolved_by = k.author.name;
      return;
    }
    case "addNote":
      j.notes.push({ at: iso, by: k.author.name, text: String(body.text ?? "") });
      return;
    case "handBack":
      j.state = "handed-back";
      j.closed_at = iso;
      j.closed_by = k.author.name;
      j.unpaid = !(body as HandBack).paid;
      j.waits = [];
      return;
    case "doWait": {
      j.waits = waitDone(j.waits, stepOf(k), body as WaitAction, at);
      return;
    }
  }
}

function begin(j: Job, s: StepView, k: Kept, at: number): void {
  for (const other of j.step_list)
    if (other.state === "begun" && other.by === k.author.name && other !== s) rest(other, at);
  j.waits = j.waits.filter((w) => !s.holding.includes(w.step ?? ""));
  if (s.state === "begun" && s.by === k.author.name) return;
  s.state = "begun";
  s.since = new Date(at).toISOString();
  s.by = k.author.name;
}

/** The time at a step is banked; nobody is at it any more. */
function rest(s: StepView, at: number): void {
  if (s.since) s.worked_s = (s.worked_s ?? 0) + Math.max(0, Math.trunc((at - Date.parse(s.since)) / 1000));
  s.state = "open";
  delete s.since;
  delete s.mine;
  delete s.by;
}

function end(j: Job, s: StepView, k: Kept, at: number, filled: string[], state: "done" | "skipped" = "done"): void {
  rest(s, at);
  s.state = state;
  s.by = k.author.name;
  s.done_at = new Date(at).toISOString();
  delete s.takes_back;
  if (state === "skipped") return;
  j.waits = j.waits.filter((w) => !s.holding.includes(w.step ?? ""));
  if (!s.wait || filled.includes(s.code)) return;
  const ids = (bodyOf(k) as BlockAction).wait_ids ?? {};
  const until = (min: number) => new Date(at + min * 60_000).toISOString();
  j.waits.push({
    id: ids[s.code] ?? `${k.key}-${s.code}`,
    tag: j.tag,
    job_id: j.id,
    step: s.code,
    what: s.wait.code,
    place: s.station,
    began_at: new Date(at).toISOString(),
    least_at: until(s.wait.least_min),
    ...(s.wait.most_min ? { most_at: until(s.wait.most_min) } : {}),
  });
}

/** Has steps be done again: their waits end. */
function again(j: Job, codes: string[], at: number): void {
  for (const s of j.step_list) {
    if (!codes.includes(s.code)) continue;
    rest(s, at);
    delete s.done_at;
    s.round += 1;
  }
  j.waits = j.waits.filter((w) => !codes.includes(w.step ?? ""));
}

function press(j: Job, k: Kept, a: BlockAction, at: number, words: Words | undefined): void {
  const block = j.blocks.find((b) => b.code === stepOf(k));
  if (!block) return;
  j.seen = [...new Set([...j.seen, ...(a.seen ?? [])])];
  const steps = block.steps.map((c) => j.step_list.find((s) => s.code === c)).filter((s) => s !== undefined);
  const open = () => steps.filter((s) => !over(s));
  const [first] = open();
  const named = steps.findIndex((s) => s.code === a.step);
  switch (a.action) {
    case "begin":
      if (first) begin(j, first, k, at);
      return;
    case "tick": {
      const line = steps[named];
      if (!line) return;
      const mine = steps.find((s) => s.state === "begun" && s.by === k.author.name);
      if (mine && mine !== line && mine.since) {
        line.since = mine.since; // the time was this line's
        delete mine.since;
        rest(mine, at);
      }
      end(j, line, k, at, []);
      stand(j, at, k.author.name, words);
      const next = open().find((s) => s.standing === "ready");
      if (mine && next) begin(j, next, k, at);
      return;
    }
    case "done":
    case "pass": {
      const through = a.action === "pass" ? steps.slice(0, named + 1) : steps;
      const filled = (block.filled ?? []).filter((c) => {
        const last = through.at(-1);
        return c !== last?.code && through.some((s) => s.code === c) && through.some((s) => s.holding.includes(c));
      });
      const ended = through.filter((s) => !over(s));
      const began = ended.map((s) => s.since).filter((s) => s !== undefined);
      for (const s of ended) delete s.since; // shared over them by the server
      for (const s of ended) end(j, s, k, at, filled);
      const [share] = began;
      if (share && ended[0])
        ended[0].worked_s = (ended[0].worked_s ?? 0) + Math.max(0, Math.trunc((at - Date.parse(share)) / 1000));
      if (!a.go_on) return;
      stand(j, at, k.author.name, words);
      const next = open()[0] ?? firstOpen(j, currentBlock(j, k.author.name));
      if (next) begin(j, next, k, at);
      return;
    }
  }
}

const firstOpen = (j: Job, code: string | undefined) => {
  const block = j.blocks.find((b) => b.code === code);
  return j.step_list.find((s) => block?.steps.includes(s.code) && !over(s));
};

function step(j: Job, k: Kept, a: StepAction, at: number, words: Words | undefined): void {
  const s = j.step_list.find((x) => x.code === stepOf(k));
  if (!s) return;
  j.seen = [...new Set([...j.seen, ...(a.seen ?? [])])];
  switch (a.action) {
    case "begin":
      begin(j, s, k, at);
      return;
    case "pause":
      rest(s, at);
      return;
    case "skip":
      end(j, s, k, at, [], "skipped");
      if (a.reason) s.reason = a.reason;
      return;
    case "fail":
      s.fails = (s.fails ?? 0) + 1;
      again(j, s.felt?.find((f) => f.code === a.felt)?.again ?? s.again ?? [], at);
      return;
    case "hand-over":
      rest(s, at);
      s.state = "begun";
      s.since = new Date(at).toISOString();
      s.by = "a colleague";
      return;
    case "done": {
      end(j, s, k, at, []);
      if (a.cause) s.reason = a.cause;
      if (!a.go_on) return;
      stand(j, at, k.author.name, words);
      const next = j.step_list.find((x) => x.code === current(j, k.author.name));
      if (next) begin(j, next, k, at);
    }
  }
}

/** What a wait becomes by what is done about it. */
export function waitDone(waits: WaitView[], id: string, a: WaitAction, at: number): WaitView[] {
  if (a.action === "take" || a.action === "end") return waits.filter((w) => w.id !== id);
  if (a.action !== "extend") return waits;
  return waits.map((w) =>
    w.id === id
      ? { ...w, least_at: new Date(Math.max(Date.parse(w.least_at), at) + (a.minutes ?? 0) * 60_000).toISOString() }
      : w,
  );
}

const current = (j: Job, me: string) =>
  (j.step_list.find((s) => s.state === "begun" && s.by === me) ?? j.step_list.find((s) => s.standing === "ready"))
    ?.code ?? "";

function currentBlock(j: Job, me: string): string | undefined {
  const at = (code: string) => j.step_list.find((s) => s.code === code);
  return (
    j.blocks.find((b) => b.steps.some((c) => at(c)?.state === "begun" && at(c)?.by === me)) ??
    j.blocks.find((b) => b.standing === "ready")
  )?.code;
}

/** Works out how all stands: what is over, what can be begun, what holds it. */
function stand(j: Job, at: number, me: string, words: Words | undefined): void {
  standings(j, at, words);
  const open = j.state === "planned";
  j.current = open ? current(j, me) : "";
  for (const s of j.step_list) {
    if (s.state === "begun" && s.by === me) s.mine = true;
    else delete s.mine;
  }
  delete j.block;
  delete j.next_block;
  const block = open ? currentBlock(j, me) : undefined;
  if (block) {
    j.block = block;
    const next = nextBlock(j, block, me, at, words);
    if (next) j.next_block = next;
  }
  j.holds = open ? holds(j, at, words) : [];
  summary(j);
}

function standings(j: Job, at: number, words: Words | undefined): void {
  const of = new Map(j.step_list.map((s) => [s.code, s]));
  const done = (code: string) => {
    const s = of.get(code);
    return s !== undefined && over(s);
  };
  const runs = (code: string) => {
    const ends = j.waits.filter((w) => w.step === code).map((w) => Date.parse(w.least_at));
    return Math.max(0, ...ends.filter((e) => e > at));
  };
  const stops = j.findings.filter((f) => !f.resolution && f.severity === "stop").map((f) => f.code);
  for (const s of j.step_list) {
    delete s.until;
    const until = Math.max(0, ...s.holding.map(runs));
    // What the server says withholds it stands where this device does not know the fault.
    const withheld = words
      ? [...new Set(stops)].filter((code) => words.findings.find((f) => f.code === code)?.withholds.includes(s.code))
      : (s.withheld ?? []);
    if (withheld.length > 0) s.withheld = withheld;
    else delete s.withheld;
    if (over(s)) s.standing = "finished";
    else if (s.state === "begun") s.standing = "underway";
    else if (!s.before.every(done)) s.standing = "blocked";
    else if (withheld.length > 0) s.standing = "withheld";
    else if (until > 0) {
      s.standing = "held";
      s.until = new Date(until).toISOString();
    } else s.standing = "ready";
  }
  for (const b of j.blocks) b.standing = ofBlock(b.steps);

  function ofBlock(codes: string[]): StepView["standing"] {
    let first: StepView | undefined;
    let held = false;
    for (const code of codes) {
      const s = of.get(code);
      if (!s || over(s)) continue;
      if (s.state === "begun") return "underway";
      first ??= s;
      if (s.before.some((c) => !codes.includes(c) && !done(c))) return "blocked";
      held ||= s.holding.some((c) => !codes.includes(c) && runs(c) > 0);
    }
    if (!first) return "finished";
    return held ? "held" : first.standing;
  }
}

/** What can be gone on with once a block is done. */
function nextBlock(j: Job, block: string, me: string, at: number, words: Words | undefined): string | undefined {
  const then = structuredClone(j);
  const b = then.blocks.find((x) => x.code === block);
  for (const s of then.step_list) {
    if (!b?.steps.includes(s.code) || over(s)) continue;
    s.state = "done";
    if (s.wait && !(b.filled ?? []).includes(s.code))
      then.waits.push({
        id: s.code,
        step: s.code,
        what: s.wait.code,
        began_at: new Date(at).toISOString(),
        least_at: new Date(at + s.wait.least_min * 60_000).toISOString(),
      });
  }
  standings(then, at, words);
  return currentBlock(then, me);
}

function holds(j: Job, at: number, words: Words | undefined): Job["holds"] {
  const all: Job["holds"] = [];
  for (const s of j.step_list) {
    if (s.gate && s.state !== "done") all.push({ code: "check-open", what: s.code, says: s.title });
    else if (!over(s)) all.push({ code: "step-open", what: s.code, says: s.title });
  }
  for (const f of j.findings)
    if (f.severity === "stop" && !f.resolved_at)
      all.push({ code: "finding", what: f.code, says: words?.findings.find((w) => w.code === f.code)?.says ?? f.code });
  for (const w of j.waits)
    if (Date.parse(w.least_at) > at) all.push({ code: "wait-runs", what: w.step ?? "", says: w.what });
  return all;
}

function summary(j: Job): void {
  j.done = j.step_list.filter(over).length;
  j.left_min = j.step_list.filter((s) => !over(s)).reduce((sum, s) => sum + s.minutes, 0);
  j.open_checks = j.step_list.filter((s) => s.gate && s.state !== "done").length;
  j.stops = j.findings.filter((f) => f.severity === "stop" && !f.resolved_at).length;
  j.ready = j.state === "planned" && j.holds.length === 0;
}

/** What a job has that was only just opened: nothing done, nothing found. */
export const justOpened = {
  done: 0,
  steps: 0,
  underway: [],
  open_checks: 0,
  stops: 0,
  left_min: 0,
  ready: false,
  version: 0,
  step_list: [],
  blocks: [],
  waits: [],
  findings: [],
  photos: [],
  notes: [],
  used: [],
  parts: [],
  ask_owner: false,
  may: [],
  seen: [],
  current: "",
  holds: [],
  shelf: [],
  needs_second: false,
  told: [],
  hands_min: 0,
  worked_min: 0,
} satisfies Partial<Job>;

/** A job that was opened on this device and is not on the server yet. */
export function opened(k: Kept, bike: { customer: Job["customer"]; name: string } | undefined): Job {
  const intake = bodyOf(k) as Schemas["Intake"];
  const at = new Date(k.at + k.behind).toISOString();
  return {
    ...structuredClone(justOpened),
    id: k.job ?? ownIdOf(k) ?? k.key,
    tag: k.tag ?? "",
    customer: bike?.customer ?? { id: "", name: "" },
    bike: bike?.name ?? "",
    state: "arrived",
    created_at: at,
    ...(intake.promised_at ? { promised_at: intake.promised_at } : {}),
    intake: { ...intake, complaints: intake.complaints ?? [] },
  };
}
