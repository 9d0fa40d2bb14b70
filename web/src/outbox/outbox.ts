import type { QueryClient } from "@tanstack/react-query";
import { useMemo, useSyncExternalStore } from "react";
import {
  type Bike,
  type Change,
  idempotencyKey,
  type Job,
  type Schemas,
  type Session,
  type WaitView,
} from "../api/client";
import { keys } from "../api/keys";
import { refresh } from "../api/live";
import { behindBy } from "../ui/shop";
import { offerBack } from "../ui/undo";
import { waitWords } from "../words/waits";
import { opened } from "./ahead";
import { isProvisional, newId, provisionalTag } from "./ids";
import { bodyOf, type Kept, kinds, madeAsOf, operationAt, ownIdOf, stepOf } from "./kinds";
import { found, look, lookSoon, lost, onReach, reachNow, unsentYet } from "./reach";
import * as shelf from "./shelf";

// One outbox for all that is written at the stand: it is kept on this device first, and then sent, in order, by whichever tab
// holds the lock. Where the server does not answer at once the screen goes on, and what is unsent is marked.

const lockName = "pony.outbox";
const channelName = "pony.outbox";

/** How long the screen waits for the server before it goes on without it; longer where the answer leads to another screen. */
const patience = { press: 2_500, other: 6_000 };
/** How long one is waited for before the server counts as lost, and how long a picture is. */
const answerIn = 15_000;
const pictureIn = 90_000;
/** As long as the server keeps answers: older ones are not sent without a person's word. One day less, for slow clocks. */
const answersKept = 13 * 24 * 3_600_000;
/** How long an answer may take before it is looked whether the server is there at all. */
const soon = 4_000;
/** One that is sent as it is made has the server's time; one that waited for longer has its own. */
const atOnce = 3_000;

const thisTab = idempotencyKey();

type News = { kind: "changed" } | { kind: "answered"; key: string; status: number; text: string };

let client: QueryClient | undefined;
let kept: Kept[] = [];
let broken: string | undefined;
const listeners = new Set<() => void>();
const waiting = new Map<string, (answer: Response) => void>();

const tell = () => {
  for (const one of [...listeners]) one();
};

const channel = typeof BroadcastChannel === "undefined" ? undefined : new BroadcastChannel(channelName);

/** Reads what is kept anew: this tab, or another one, changed it. */
async function read(): Promise<void> {
  kept = await shelf.unsent();
  const now = kept.filter(goneOn);
  if (now.length !== on.length || now.some((k, i) => k !== on[i])) on = now;
  // One of a tab that may be gone is looked at again.
  if (now.length < kept.length && kept.some((k) => k.tab && k.tab !== thisTab))
    window.setTimeout(() => void read().catch(() => {}), gone);
  tell();
}

async function changed(): Promise<void> {
  await read();
  channel?.postMessage({ kind: "changed" } satisfies News);
}

/** Begins to keep and to send; what was kept before the page was loaded is sent now. */
export function openOutbox(of: QueryClient): () => void {
  client = of;
  unsentYet.has = (key) => kept.some((k) => k.key === key || k.key.startsWith(`${key}-`));
  void look();
  void drain();
  const hear = (e: MessageEvent<News>) => {
    if (e.data.kind === "changed") void read().catch(() => {});
    else {
      const news = e.data;
      const mine = kept.find((k) => k.key === news.key);
      // Another tab sent it, and this one still shows what was typed: what is wrong with it is said here.
      if (mine && news.status >= 400 && waiting.has(news.key)) void shelf.takeOff([mine.order]).then(changed);
      deliver(news);
    }
  };
  channel?.addEventListener("message", hear);
  const again = () => void drain();
  window.addEventListener("online", again);
  document.addEventListener("visibilitychange", again);
  const end = onReach(() => {
    if (reachNow().reached) {
      again();
      // What changed meanwhile was not asked for.
      void of.refetchQueries({ type: "active", predicate: (q) => q.isStale() });
    } else tell();
  });
  const ask = (e: BeforeUnloadEvent) => {
    if (!leaves && (kept.length > 0 || waiting.size > 0)) e.preventDefault();
  };
  window.addEventListener("beforeunload", ask);
  return () => {
    channel?.removeEventListener("message", hear);
    window.removeEventListener("online", again);
    document.removeEventListener("visibilitychange", again);
    window.removeEventListener("beforeunload", ask);
    end();
  };
}

let leaves = false;

/** The page is left on purpose, and comes back with what is unsent: nobody is asked. */
export function leavingOnPurpose(): void {
  leaves = true;
}

/** Why nothing can be kept here. */
function whyNotKept(e: unknown): string {
  if (e instanceof DOMException && e.name === "QuotaExceededError")
    return "The storage of this device is full: nothing more can be kept without a connection. Make room, or write it on paper until the connection is back.";
  return "This browser keeps nothing between pages, as in a private window: without a connection nothing can be written here.";
}

const session = () => client?.getQueryData<Session | null>(keys.session) ?? undefined;
const jobIn = (id: string | undefined) => (id ? client?.getQueryData<Job>(keys.job(id)) : undefined);

/** What a request is to be kept as. What it makes gets its name here, so that it goes by it from now on. */
async function keptOf(request: Request): Promise<Omit<Kept, "order"> | undefined> {
  const url = new URL(request.url);
  const path = url.pathname.replace(/^\/api\/v1/, "");
  const at = operationAt(request.method, path);
  const me = session();
  if (!at || !me) return undefined;
  const kind = kinds[at.operation];
  if (kind.ownId && !url.searchParams.has("id")) url.searchParams.set("id", newId());
  if (at.operation === "addBike" && !url.searchParams.has("made_as")) url.searchParams.set("made_as", provisionalTag());
  const made = at.operation === "openJob" ? (url.searchParams.get("id") ?? undefined) : undefined;
  const job = at.job ?? made ?? jobOfWait(at.operation === "doWait" ? at.step : undefined);
  const known = jobIn(job);
  const tag = at.tag ?? known?.tag ?? url.searchParams.get("made_as") ?? undefined;
  let body: string | Blob = kind.picture ? await request.clone().blob() : await request.clone().text();
  if ((at.operation === "doBlock" || at.operation === "doStep") && known && typeof body === "string")
    body = withWaits(body, at.operation === "doBlock" ? (at.step ?? "") : undefined, at.step ?? "", known);
  const asked = { method: request.method, path: path + url.search, body };
  if (bodyOf(asked).second_pin) return undefined; // a colleague signs with their PIN: it is kept nowhere, and needs a connection
  const about = { operation: at.operation, ...(job ? { job } : {}), ...(tag ? { tag } : {}) };
  return {
    ...asked,
    ...about,
    ...needsOf(about),
    key: request.headers.get("Idempotency-Key") ?? idempotencyKey(),
    type: request.headers.get("Content-Type"),
    author: { id: me.person.id, name: me.person.name },
    at: Date.now(),
    behind: behindBy(),
    words: kind.words(bodyOf(asked), nameOf(at.operation, bodyOf(asked), at.step), known),
    tab: thisTab,
    ...(notAsked() ? { unasked: true } : {}),
  };
}

let notAsked = (): boolean => false;

/** Tells whether whoever is at this device was not asked for a PIN. */
export function askWhoIsHere(unasked: () => boolean): void {
  notAsked = unasked;
}

/** What is named in words: of a fault what it says, of a wait what is waited for; of all else its code. */
function nameOf(
  operation: Kept["operation"],
  body: Record<string, unknown>,
  step: string | undefined,
): string | undefined {
  if (operation === "addFinding") {
    const words = client?.getQueryData<Schemas["JobWords"]>(keys.jobWords);
    return words?.findings.find((f) => f.code === body.code)?.says;
  }
  if (operation !== "doWait") return step;
  const wait = client?.getQueryData<{ waits: WaitView[] }>(keys.waits)?.waits.find((w) => w.id === step);
  if (wait) return waitWords(wait.what);
  const started = kept.find((k) => waitsOf(k).some(([, id]) => id === step));
  const code = started && waitsOf(started).find(([, id]) => id === step)?.[0];
  const what = jobIn(started?.job)?.step_list.find((s) => s.code === code)?.wait?.code;
  return what && waitWords(what);
}

const waitsOf = (k: Kept) => Object.entries((bodyOf(k).wait_ids ?? {}) as Record<string, string>);

/** Names the waits that a press would start: they run here under that name before the server knows of them. */
function withWaits(body: string, block: string | undefined, step: string, job: Job): string {
  const codes = block ? (job.blocks.find((b) => b.code === block)?.steps ?? []) : [step];
  const starts = job.step_list.filter((s) => codes.includes(s.code) && s.wait && s.standing !== "finished");
  if (starts.length === 0) return body;
  const read = JSON.parse(body) as { action?: string; wait_ids?: unknown };
  if (read.wait_ids || !["done", "pass", "tick"].includes(read.action ?? "")) return body;
  return JSON.stringify({ ...read, wait_ids: Object.fromEntries(starts.map((s) => [s.code, newId()])) });
}

/** The job that a wait belongs to, where this device knows it. */
function jobOfWait(wait: string | undefined): string | undefined {
  if (!wait) return undefined;
  const list = client?.getQueryData<{ waits: { id: string; job_id?: string }[] }>(keys.waits)?.waits ?? [];
  const known = list.find((w) => w.id === wait)?.job_id;
  return known ?? kept.find((k) => waitsOf(k).some(([, id]) => id === wait))?.job;
}

/** What must have arrived before: what made its bike or its job; and for a press the one before it, with its readings. */
function needsOf(k: Pick<Kept, "operation" | "job" | "tag">): Pick<Kept, "needs" | "follows"> {
  const ofBike = (o: Kept) => k.tag !== undefined && o.tag === k.tag;
  const ofJob = (o: Kept) => k.job !== undefined && o.job === k.job;
  const made = kept.filter((o) => (o.operation === "addBike" && ofBike(o)) || (o.operation === "openJob" && ofJob(o)));
  const press = kinds[k.operation].press === true;
  const before = kept.filter((o) => ofJob(o) && kinds[o.operation].press).at(-1);
  const readings = kept.filter(
    (o) => (o.operation === "recordMeasurement" || o.operation === "replaceChain") && ofBike(o),
  );
  const all = k.operation === "handBack" ? kept.filter((o) => ofJob(o) && !kinds[o.operation].picture) : [];
  const needs = [...made, ...(press ? [...readings, ...(before ? [before] : []), ...all] : [])];
  const last = (press ? before : undefined) ?? made.at(-1);
  return { needs: [...new Set(needs.map((o) => o.key))], ...(last ? { follows: last.key } : {}) };
}

/**
 * Sends one as it always was, without keeping it: what is asked, what is no work at the stand, or where nothing can be kept.
 * While the server is lost nothing is asked of it: a browser has few lines, and those that hang would keep the rest waiting.
 */
export async function sendNow(request: Request): Promise<Response> {
  // What only asks has no key; who signs in is heard whatever is thought of the network.
  const asks =
    request.method === "GET" || !(request.headers.has("Idempotency-Key") || request.url.includes("/session"));
  if (asks && !reachNow().reached) {
    lookSoon();
    throw new TypeError("no server");
  }
  const given = new AbortController();
  const stop = () => given.abort(request.signal.reason);
  request.signal.addEventListener("abort", stop);
  const late = window.setTimeout(() => void look(), soon);
  const file = request.headers.get("Content-Type") === "application/octet-stream";
  const timer = window.setTimeout(stop, file ? pictureIn : answerIn);
  const end = onReach(() => {
    if (asks && !reachNow().reached) stop();
  });
  try {
    const answer = await globalThis.fetch(new Request(request, { signal: given.signal }));
    heard(answer);
    return answer;
  } catch (e) {
    if (request.signal.aborted) throw e; // nobody wants it any more
    lost();
    throw new TypeError("no answer");
  } finally {
    window.clearTimeout(timer);
    window.clearTimeout(late);
    end();
    request.signal.removeEventListener("abort", stop);
  }
}

/** What an answer tells of the server. */
function heard(answer: Response): void {
  if (answer.status === 502 || answer.status === 504) {
    lost(); // what stands in front of it answers
    return;
  }
  if (answer.status === 503) return; // it lives, and cannot do its work
  found();
  if (answer.headers.get("Signed-Out-From-Afar") === "true") void forgetShop();
}

let forget: () => Promise<void> = async () => {};

/** What is done when this device was signed out from afar: all it shows of the shop goes. */
export function onSignedOutFromAfar(does: () => Promise<void>): void {
  forget = does;
}

async function forgetShop(): Promise<void> {
  await shelf.forgetShown().catch(() => {});
  await forget();
}

/** Sends a request of the contract: what is work at the stand is kept first. */
export async function send(request: Request): Promise<Response> {
  if (request.method === "GET") return sendNow(request);
  const one = await keptOf(request);
  if (!one) return sendNow(request);
  let mine: Kept;
  try {
    const before = kept.find((k) => k.key === one.key);
    if (before && !before.refused) await shelf.change(before.order, { tab: thisTab });
    if (before?.refused) await shelf.takeOff([before.order]);
    mine = before && !before.refused ? before : await shelf.keep(one);
    broken = undefined;
  } catch (e) {
    broken = whyNotKept(e);
    tell();
    return sendNow(
      new Request(request, { headers: { ...Object.fromEntries(request.headers), "Idempotency-Key": one.key } }),
    );
  }
  const answered = new Promise<Response>((resolve) => waiting.set(mine.key, resolve));
  await changed();
  void drain();
  const kind = kinds[mine.operation];
  const slow = new Promise<"slow">((resolve) => {
    const late = () => resolve("slow");
    window.setTimeout(late, reachNow().reached ? (kind.press ? patience.press : patience.other) : 0);
    const end = onReach(() => {
      if (!reachNow().reached) late();
    });
    void answered.then(end);
  });
  const first = await Promise.race([answered, slow]);
  if (first !== "slow") return first;
  return goOn(mine);
}

/** Nobody waits for it any more: the screen goes on with what is known here. */
async function goOn(mine: Kept): Promise<Response> {
  waiting.delete(mine.key);
  const still = kept.find((k) => k.key === mine.key);
  if (still) {
    await shelf.change(still.order, { tab: "" }).catch(() => {});
    await changed().catch(() => {});
    if (kinds[mine.operation].press || mine.operation === "doWait")
      offerBack(mine.words, () => withdraw([mine.key]), mine.job);
  }
  const answer = standIn(mine);
  return new Response(JSON.stringify(answer ?? null), { headers: { "Content-Type": "application/json" } });
}

/** What is answered meanwhile: what is known here, upon which the screens lay what is unsent. */
function standIn(k: Kept): unknown {
  switch (kinds[k.operation].answers) {
    case "job": {
      const job = jobIn(k.job);
      if (job || k.operation !== "openJob") return job;
      return jobMadeHere(k.job ?? "");
    }
    case "waits":
      return client?.getQueryData<{ waits: unknown[] }>(keys.waits) ?? { waits: [], now: new Date().toISOString() };
    case "other":
      if (k.operation === "addBike") return madeBike(k);
      if (k.operation === "noteWaste") return client?.getQueryData(keys.waste) ?? [];
      return undefined;
  }
}

/** A bike that was added here and is not on the server yet; it is shown by its page as any other. */
function madeBike(k: Kept): Bike | undefined {
  const tag = madeAsOf(k);
  if (!tag) return undefined;
  const body = bodyOf(k) as { facts: Bike["facts"]; customer?: { name: string }; customer_id?: string };
  const known = client
    ?.getQueriesData<{ id: string; facts: { name: string } }[]>({ queryKey: [...keys.customers, "found"] })
    .flatMap(([, list]) => (Array.isArray(list) ? list : []))
    .find((c) => c.id === body.customer_id);
  const customer = { id: body.customer_id ?? "", name: body.customer?.name ?? known?.facts.name ?? "" };
  const bike: Bike = {
    tag,
    customer,
    facts: body.facts,
    archived: false,
    version: 0,
    added_at: new Date(k.at + k.behind).toISOString(),
  };
  client?.setQueryData(keys.bike(tag), bike);
  return bike;
}

/** A job that was opened here and is not on the server yet. */
export function jobMadeHere(id: string): Job | undefined {
  const k = kept.find((o) => o.operation === "openJob" && o.job === id);
  if (!k) return undefined;
  const bike = k.tag ? client?.getQueryData<Bike>(keys.bike(k.tag)) : undefined;
  const name =
    [bike?.facts.make, bike?.facts.model, bike?.facts.colour].filter(Boolean).join(" ") || "bike without a name";
  return opened(k, bike ? { customer: bike.customer, name } : undefined);
}

function deliver(news: Extract<News, { kind: "answered" }>): void {
  const to = waiting.get(news.key);
  waiting.delete(news.key);
  to?.(
    new Response(news.status === 204 ? null : news.text, {
      status: news.status,
      headers: { "Content-Type": "application/json" },
    }),
  );
}

let running: Promise<void> | undefined;
let again = false;
let retry: number | undefined;
let failures = 0;

/** Sends what can be sent. One tab does it for all of them. */
export function drain(): Promise<void> {
  window.clearTimeout(retry);
  if (running) {
    again = true; // it may have looked through all already
    return running;
  }
  running = locked(sendAll)
    .catch((e: unknown) => {
      broken = whyNotKept(e);
      tell();
    })
    .finally(() => {
      running = undefined;
      if (again) void drain();
    });
  again = false;
  return running;
}

/** Locks are there only on a secure address; elsewhere the keys see to it that two tabs do a thing once. */
const locked = (does: () => Promise<void>): Promise<void> =>
  navigator.locks ? navigator.locks.request(lockName, does).then(() => undefined) : does();

async function sendAll(): Promise<void> {
  let sent = false;
  let unattended = false;
  for (;;) {
    await read();
    const next = nextOf(kept);
    if (!next) break;
    const how = await sendOne(next);
    if (how === "later") {
      retry = window.setTimeout(() => void drain(), Math.min(500 * 2 ** failures, 20_000));
      failures += 1;
      break;
    }
    failures = 0;
    sent ||= how === "sent";
    unattended ||= how === "sent" && next.tab !== thisTab;
  }
  // What was sent while no screen waited for it: what is shown may turn on it.
  if (sent && unattended && client) void refresh(client, { topic: "everything" });
}

/** What a person must decide on before it is sent. */
export const isOld = (k: Kept, now = Date.now()): boolean => !k.lookedOver && now - k.at > answersKept;

/** Whether its author must sign in here first. */
export const isSealed = (k: Kept): boolean => (k.sealed ?? false) || (k.unasked ?? false);

/** What stops it: something it is built on that was refused, or waits itself. */
const stoppedBy = (k: Kept, all: Kept[]): Kept | undefined => all.find((o) => k.needs.includes(o.key));

const nextOf = (all: Kept[]): Kept | undefined => {
  const can = all.filter((k) => !k.refused && !isOld(k) && !isSealed(k) && !stoppedBy(k, all));
  return can.find((k) => !kinds[k.operation].picture) ?? can[0];
};

/** Those that are not sent before a person decided: refused ones, and all that is built on them. */
export function stopped(all: Kept[]): Set<string> {
  const keys = new Set(all.filter((k) => k.refused || isOld(k)).map((k) => k.key));
  for (const k of all) if (k.needs.some((n) => keys.has(n))) keys.add(k.key); // in order: one pass reaches all
  return keys;
}

async function sendOne(k: Kept): Promise<"sent" | "refused" | "later"> {
  const late = Date.now() - k.at > atOnce || k.tab !== thisTab;
  const headers: Record<string, string> = { "Idempotency-Key": k.key, "Written-By": k.author.id };
  if (k.type) headers["Content-Type"] = k.type;
  if (k.follows) headers.Follows = k.follows;
  if (k.lookedOver) headers["Looked-Over"] = "true";
  if (late) {
    headers["Happened-At"] = new Date(k.at).toISOString();
    headers["Clock-Behind"] = String(Math.round(k.behind));
  }
  const gone = new AbortController();
  const timer = window.setTimeout(() => gone.abort(), kinds[k.operation].picture ? pictureIn : answerIn);
  let answer: Response;
  let text: string;
  try {
    answer = await globalThis.fetch(`/api/v1${k.path}`, {
      method: k.method,
      headers,
      body: k.body,
      signal: gone.signal,
    });
    text = await answer.text();
  } catch {
    lost();
    return "later";
  } finally {
    window.clearTimeout(timer);
  }
  heard(answer);
  if (answer.ok) {
    await arrived(k, answer.status, text);
    return "sent";
  }
  return refused(k, answer, text);
}

async function arrived(k: Kept, status: number, text: string): Promise<void> {
  // What is shown is as the server says before the mark goes, so that nothing jumps back.
  if (client && kinds[k.operation].answers === "job" && k.job)
    client.setQueryData(keys.job(k.job), JSON.parse(text) as Job);
  await shelf.takeOff([k.order]);
  await changed();
  const news: News = { kind: "answered", key: k.key, status, text };
  deliver(news);
  channel?.postMessage(news);
  if (client && k.tab !== thisTab) await refresh(client, ...changesOf(k));
}

/** What one makes old. */
const changesOf = (k: Kept): Change[] => {
  if (k.operation === "noteWaste") return [{ topic: "stores" }];
  const of = k.tag && !isProvisional(k.tag) ? { tag: k.tag } : {};
  return [
    { topic: "job", ...of },
    { topic: "bike", ...of },
  ];
};

/** What is said later again without a person: the server was busy, or somebody changed something in the same moment. */
const passing = new Set(["send-again", "busy", "database-away", "too-slow"]);

async function refused(k: Kept, answer: Response, text: string): Promise<"refused" | "later"> {
  let said: { code: string; title: string; theirs?: unknown } | undefined;
  try {
    const body = JSON.parse(text) as { code?: string; title?: string; theirs?: unknown };
    if (body.code && body.title)
      said = { code: body.code, title: body.title, ...(body.theirs ? { theirs: body.theirs } : {}) };
  } catch {
    // something in front of the server answers in words of its own
  }
  const watched = waiting.has(k.key);
  if (!watched && (said?.code === "author-signed-out" || said?.code === "not-signed-in")) {
    for (const o of kept.filter((x) => x.author.id === k.author.id))
      await shelf.change(o.order, { sealed: true, tab: "" });
    await changed();
    return "refused";
  }
  if (
    !said ||
    (answer.status >= 500 && said.code !== "internal") ||
    answer.status === 429 ||
    (passing.has(said.code) && !watched)
  ) {
    lost(said?.code === "database-away" ? said.title : undefined);
    return "later";
  }
  // Somebody still sees what was typed: it is said there, and stays there.
  if (watched) {
    await shelf.takeOff([k.order]);
    await changed();
    deliver({ kind: "answered", key: k.key, status: answer.status, text });
    return "refused";
  }
  await shelf.change(k.order, { refused: said, tab: "" });
  await changed();
  channel?.postMessage({ kind: "answered", key: k.key, status: answer.status, text } satisfies News);
  return "refused";
}

/** Takes back what was not sent yet, with all that is built on it. */
export async function withdraw(which: string[]): Promise<void> {
  const gone = builtOn(which);
  await locked(async () => {
    await read();
    await shelf.takeOff(kept.filter((k) => gone.has(k.key)).map((k) => k.order));
  });
  await changed();
  void drain();
}

/** Those, and all that is built on them. */
export function builtOn(which: string[]): Set<string> {
  const all = new Set(which);
  for (const k of kept) if (k.needs.some((n) => all.has(n))) all.add(k.key);
  return all;
}

/** Drops one that was refused: what is built on it goes without it. */
export async function drop(which: string[]): Promise<void> {
  await locked(async () => {
    await read();
    for (const k of kept.filter((o) => !which.includes(o.key) && o.needs.some((n) => which.includes(n)))) {
      const needs = k.needs.filter((n) => !which.includes(n));
      const { follows, ...rest } = k;
      await shelf.takeOff([k.order]);
      await shelf.keepAt({ ...rest, needs, ...(follows && !which.includes(follows) ? { follows } : {}) });
    }
    await shelf.takeOff(kept.filter((k) => which.includes(k.key)).map((k) => k.order));
  });
  await changed();
  void drain();
}

/** Sends one that was refused, or that is old, once more: a person looked at it. */
export async function sendAgain(which: string[]): Promise<void> {
  for (const k of kept.filter((o) => which.includes(o.key)))
    await shelf.change(k.order, { refused: undefined, lookedOver: true });
  await changed();
  void drain();
}

/** Somebody signed in with their PIN: what they wrote here is sent now. */
export async function unseal(person: string): Promise<void> {
  for (const k of kept.filter((o) => o.author.id === person && isSealed(o)))
    await shelf.change(k.order, { unasked: false, sealed: false });
  await changed().catch(() => {});
  void drain();
}

/** The people of whom this device keeps something unsent. */
export const unsentOf = (): string[] => [...new Set(kept.map((k) => k.author.id))];

const listen = (one: () => void) => {
  listeners.add(one);
  return () => void listeners.delete(one);
};

/** How long after it was made a tab that is gone may still have waited for one. */
const gone = 4_000;

/** Whether the screens go on as if it had arrived: not while the one on which it was written still waits for the server. */
const goneOn = (k: Kept): boolean => (k.tab === thisTab ? !waiting.has(k.key) : !k.tab || Date.now() - k.at > gone);

let on: Kept[] = [];

/** Whether it is of somebody who must sign in before anybody is shown it. */
export const isAnothers = (k: Kept): boolean => (k.sealed ?? false) && k.author.id !== session()?.person.id;

/** What is kept and was not sent, oldest first, without what a screen still waits for. */
export const useUnsent = (): Kept[] => useSyncExternalStore(listen, () => on);

/** Why nothing can be kept here; nothing where it can. */
export const useBroken = (): string | undefined => useSyncExternalStore(listen, () => broken);

/** What is unsent of a job, without what a person must decide on first. */
export function useUnsentOfJob(job: string): Kept[] {
  const all = useUnsent();
  return useMemo(() => {
    const not = stopped(all);
    return all.filter((k) => k.job === job && !not.has(k.key) && !isAnothers(k));
  }, [all, job]);
}

/** Those of the step or wait that one of them names, for what shows it. */
export const stepNamed = stepOf;
export const idNamed = ownIdOf;
