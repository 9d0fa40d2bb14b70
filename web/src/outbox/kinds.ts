import type { Job, Schemas } from "../api/client";
import type { operations } from "../api/schema";
import { amount } from "../ui/units";
import { shortTitle } from "./titles";

/** The operations that the contract takes later than they were done. */
export type Queueable = {
  [O in keyof operations]: [NonNullable<operations[O]["parameters"]["header"]>] extends [never]
    ? never
    : "Written-By" extends keyof NonNullable<operations[O]["parameters"]["header"]>
      ? O
      : never;
}[keyof operations];

/** One write that this device keeps until it is sent. */
export type Kept = {
  /** In which order they were made. */
  order: number;
  /** Sent again with it, it is still done once. */
  key: string;
  operation: Queueable;
  method: string;
  /** Below /api/v1, with what is asked after it. */
  path: string;
  type: string | null;
  body: string | Blob;
  author: { id: string; name: string };
  /** No PIN was asked of its author, as there was no network: they sign in before it is sent. */
  unasked?: boolean;
  /** The server takes nothing of its author from this device before they sign in here: nobody else is shown it. */
  sealed?: boolean;
  /** When it was done by this device's clock, and by how much that is behind the server's, in milliseconds. */
  at: number;
  behind: number;
  /** What it is about: a bike by its tag, or what it goes by here until it has one; a job by its id. */
  tag?: string;
  job?: string;
  /** In a person's words. */
  words: string;
  /** The keys of those that must have arrived before. */
  needs: string[];
  /** Among them the one that it goes on from. */
  follows?: string;
  /** The tab that still shows what was typed, and hears what the server says of it. */
  tab?: string;
  /** What the server said against it: a person decides. */
  refused?: { code: string; title: string; theirs?: unknown } | undefined;
  /** A person wants it sent, though it is old. */
  lookedOver?: boolean;
};

type Asked = Pick<Kept, "method" | "path" | "body">;

type Kind = {
  method: string;
  path: RegExp;
  /** What it says in the list, with what is known of its job. */
  words: (body: Record<string, unknown>, step: string | undefined, job: Job | undefined) => string;
  /** What the server answers with. */
  answers: "job" | "waits" | "other";
  /** Whether it brings an id of its own. */
  ownId?: true;
  /** A picture: sent after all else. */
  picture?: true;
  /** One press at the stand goes on from the one before. */
  press?: true;
};

const text = (v: unknown): string => (typeof v === "string" ? v : "");

const uuid = "[0-9a-f-]{36}";
const job = (rest: string) => new RegExp(`^/jobs/(?<job>${uuid})${rest}$`);
const bike = (rest: string) => new RegExp(`^/bikes/(?<tag>[^/]+)${rest}$`);

const actionWords: Record<string, string> = {
  begin: "Begun",
  done: "Done",
  pass: "Passed",
  tick: "Done",
  fail: "Did not pass",
  pause: "Paused",
  skip: "Skipped",
  "hand-over": "Handed over",
  "take-back": "Taken back",
};

/** What is kept, by the operation of the contract: each that it takes later has a row. */
export const kinds: Record<Queueable, Kind> = {
  addBike: {
    method: "POST",
    path: /^\/bikes$/,
    ownId: true,
    answers: "other",
    words: (b) => {
      const facts = (b.facts ?? {}) as Schemas["BikeFacts"];
      return `New bike: ${[facts.make, facts.model, facts.colour].filter(Boolean).join(" ") || "without a name"}`;
    },
  },
  openJob: { method: "POST", path: bike("/jobs"), ownId: true, answers: "job", words: () => "Booked in" },
  doBlock: {
    method: "POST",
    path: job("/blocks/(?<step>[^/]+)"),
    answers: "job",
    press: true,
    words: (b, step, j) => {
      const block = j?.blocks.find((x) => x.code === step);
      const line = j?.step_list.find((s) => s.code === b.step);
      return `${actionWords[text(b.action)] ?? "At"}: ${line?.title ?? block?.title ?? shortTitle(step ?? "")}`;
    },
  },
  doStep: {
    method: "POST",
    path: job("/steps/(?<step>[^/]+)"),
    answers: "job",
    press: true,
    words: (b, step, j) =>
      `${actionWords[text(b.action)] ?? "At"}: ${j?.step_list.find((s) => s.code === step)?.title ?? shortTitle(step ?? "")}`,
  },
  addFinding: {
    method: "POST",
    path: job("/findings"),
    ownId: true,
    answers: "job",
    words: (b, says) => `Fault found: ${(b.code === "other" && text(b.note)) || says || shortTitle(text(b.code))}`,
  },
  resolveFinding: {
    method: "PUT",
    path: job("/findings/(?<step>[^/]+)"),
    answers: "job",
    words: (b) => (b.resolution === "fixed" ? "Fault fixed" : "Fault: the customer was told"),
  },
  addNote: { method: "POST", path: job("/notes"), answers: "job", words: (b) => `Note: ${text(b.text)}` },
  addJobPart: {
    method: "POST",
    path: job("/parts"),
    answers: "job",
    words: (b) => `Part: ${b.count === 1 ? "" : `${b.count} × `}${text(b.what)}`,
  },
  addJobPhoto: {
    method: "POST",
    path: job("/photos"),
    ownId: true,
    picture: true,
    answers: "job",
    words: () => "Photo of the job",
  },
  setPhoto: { method: "PUT", path: bike("/photo"), picture: true, answers: "other", words: () => "Photo of the bike" },
  handBack: { method: "POST", path: job("/hand-back"), answers: "job", press: true, words: () => "Handed back" },
  startWait: {
    method: "POST",
    path: /^\/waits$/,
    ownId: true,
    answers: "waits",
    words: (b) => `Timer: ${text(b.what)}, ${b.minutes} min`,
  },
  doWait: {
    method: "POST",
    path: new RegExp(`^/waits/(?<step>${uuid})$`),
    answers: "waits",
    words: (b, what) => {
      const of = what ? `: ${what}` : "";
      if (b.action === "extend") return `Wait made longer by ${b.minutes} min${of}`;
      return b.action === "take-back" ? `Wait goes on${of}` : `Wait ended${of}`;
    },
  },
  noteOdometer: {
    method: "POST",
    path: bike("/odometer"),
    answers: "other",
    words: (b) => `Odometer: ${amount("distance", Number(b.km))}`,
  },
  recordMeasurement: {
    method: "POST",
    path: bike("/measurements"),
    answers: "other",
    words: (b) => {
      const entries = (b.entries ?? []) as Schemas["BenchEntry"][];
      return `Chain measured: ${
        entries
          .map((e) => e.text)
          .filter(Boolean)
          .join(", ") || "no figure"
      }`;
    },
  },
  replaceChain: { method: "POST", path: bike("/replacement"), answers: "other", words: () => "Chain replaced" },
  openChain: { method: "POST", path: bike("/chain/opened"), answers: "other", words: () => "Chain opened and closed" },
  noteWaste: {
    method: "POST",
    path: /^\/waste$/,
    answers: "other",
    words: (b) => `Waste: ${shortTitle(text(b.kind))}`,
  },
};

export type Address = { operation: Queueable; tag?: string; job?: string; step?: string };

/** Which of them a request is, if it is one; the path is below /api/v1 and without what is asked after it. */
export function operationAt(method: string, path: string): Address | undefined {
  for (const operation of Object.keys(kinds) as Queueable[]) {
    const k = kinds[operation];
    const m = k.method === method ? k.path.exec(path) : null;
    if (m)
      return {
        operation,
        ...Object.fromEntries(Object.entries(m.groups ?? {}).map(([n, v]) => [n, decodeURIComponent(v)])),
      };
  }
  return undefined;
}

/** The body of one, read; empty for a picture. */
export function bodyOf(k: Asked): Record<string, unknown> {
  if (typeof k.body !== "string" || k.body === "") return {};
  try {
    return JSON.parse(k.body) as Record<string, unknown>;
  } catch {
    return {};
  }
}

/** The part of its address that names a step, a block, a fault or a wait. */
export const stepOf = (k: Asked): string => operationAt(k.method, k.path.replace(/\?.*$/, ""))?.step ?? "";

/** The id that it gives to what it makes. */
export const ownIdOf = (k: Asked): string | undefined =>
  new URLSearchParams(k.path.split("?")[1]).get("id") ?? undefined;

/** The tag that it gives a bike until the shop gives it one. */
export const madeAsOf = (k: Asked): string | undefined =>
  new URLSearchParams(k.path.split("?")[1]).get("made_as") ?? undefined;
