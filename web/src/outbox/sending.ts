import type { Change, Job } from "../api/client";
import { keys } from "../api/keys";
import { refresh } from "../api/live";
import { isProvisional } from "./ids";
import { type Kept, kinds } from "./kinds";
import {
  type Answered,
  changed,
  deliver,
  isWaitedFor,
  keptNow,
  locked,
  nextOf,
  queryClient,
  read,
  setBroken,
  signedInSince,
  tell,
  tellOthers,
  thisTab,
} from "./queue";
import { found, look, lookSoon, lost, onReach, reachNow } from "./reach";
import * as shelf from "./shelf";

// Sends what is kept, in order, by whichever tab holds the lock; and what is not kept, as it comes.

/** How long one is waited for before the server counts as lost, and how long a picture is. */
const answerIn = 15_000;
const pictureIn = 90_000;
/** How long an answer may take before it is looked whether the server is there at all. */
const soon = 4_000;
/** One that is sent as it is made has the server's time; one that waited for longer has its own. */
const atOnce = 3_000;

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
      setBroken(e);
      tell();
    })
    .finally(() => {
      running = undefined;
      if (again) void drain();
    });
  again = false;
  return running;
}

async function sendAll(): Promise<void> {
  let sent = false;
  let unattended = false;
  for (;;) {
    await read();
    const next = nextOf(keptNow());
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
  const client = queryClient();
  if (sent && unattended && client) void refresh(client, { topic: "everything" });
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
  const asked = Date.now();
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
  return refused(k, answer, text, asked);
}

async function arrived(k: Kept, status: number, text: string): Promise<void> {
  const client = queryClient();
  // What is shown is as the server says before the mark goes, so that nothing jumps back.
  if (client && kinds[k.operation].answers === "job" && k.job)
    client.setQueryData(keys.job(k.job), JSON.parse(text) as Job);
  await shelf.takeOff([k.order]);
  await changed();
  const news: Answered = { kind: "answered", key: k.key, status, text };
  deliver(news);
  tellOthers(news);
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

async function refused(k: Kept, answer: Response, text: string, asked: number): Promise<"refused" | "later"> {
  let said: { code: string; title: string; theirs?: unknown } | undefined;
  try {
    const body = JSON.parse(text) as { code?: string; title?: string; theirs?: unknown };
    if (body.code && body.title)
      said = { code: body.code, title: body.title, ...(body.theirs ? { theirs: body.theirs } : {}) };
  } catch {
    // something in front of the server answers in words of its own
  }
  const watched = isWaitedFor(k.key);
  if (!watched && (said?.code === "author-signed-out" || said?.code === "not-signed-in")) {
    // Who signs in meanwhile is somebody the server knows again: they unseal what was sealed until then.
    const known = () => signedInSince(k.author.id, asked);
    for (const o of keptNow().filter((x) => x.author.id === k.author.id))
      if (!known()) await shelf.change(o.order, { sealed: true, tab: "" });
    await changed();
    if (known()) return "later";
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
  tellOthers({ kind: "answered", key: k.key, status: answer.status, text });
  return "refused";
}
