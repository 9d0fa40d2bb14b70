import { idempotencyKey, type Job, type Schemas, type WaitView } from "../api/client";
import { keys } from "../api/keys";
import { behindBy } from "../ui/shop";
import { waitWords } from "../words/waits";
import { newId, provisionalTag } from "./ids";
import { bodyOf, type Kept, kinds, operationAt } from "./kinds";
import { jobNow, keptNow, queryClient, sessionNow, thisTab } from "./queue";

// What is written at the stand, made ready to be kept: with the name of what it makes, who wrote it and when, what it is in
// words, and what must have arrived before it.

/** What a request is to be kept as. What it makes gets its name here, so that it goes by it from now on. */
export async function keptOf(request: Request): Promise<Omit<Kept, "order"> | undefined> {
  const url = new URL(request.url);
  const path = url.pathname.replace(/^\/api\/v1/, "");
  const at = operationAt(request.method, path);
  const me = sessionNow();
  if (!at || !me) return undefined;
  const kind = kinds[at.operation];
  if (kind.ownId && !url.searchParams.has("id")) url.searchParams.set("id", newId());
  if (at.operation === "addBike" && !url.searchParams.has("made_as")) url.searchParams.set("made_as", provisionalTag());
  const made = at.operation === "openJob" ? (url.searchParams.get("id") ?? undefined) : undefined;
  const job = at.job ?? made ?? jobOfWait(at.operation === "doWait" ? at.step : undefined);
  const known = jobNow(job);
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
    const words = queryClient()?.getQueryData<Schemas["JobWords"]>(keys.jobWords);
    return words?.findings.find((f) => f.code === body.code)?.says;
  }
  if (operation !== "doWait") return step;
  const wait = queryClient()
    ?.getQueryData<{ waits: WaitView[] }>(keys.waits)
    ?.waits.find((w) => w.id === step);
  if (wait) return waitWords(wait.what);
  const started = keptNow().find((k) => waitsOf(k).some(([, id]) => id === step));
  const code = started && waitsOf(started).find(([, id]) => id === step)?.[0];
  const what = jobNow(started?.job)?.step_list.find((s) => s.code === code)?.wait?.code;
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
  const list = queryClient()?.getQueryData<{ waits: { id: string; job_id?: string }[] }>(keys.waits)?.waits ?? [];
  const known = list.find((w) => w.id === wait)?.job_id;
  return known ?? keptNow().find((k) => waitsOf(k).some(([, id]) => id === wait))?.job;
}

/** What must have arrived before: what made its bike or its job; and for a press the one before it, with its readings. */
function needsOf(k: Pick<Kept, "operation" | "job" | "tag">): Pick<Kept, "needs" | "follows"> {
  const ofBike = (o: Kept) => k.tag !== undefined && o.tag === k.tag;
  const ofJob = (o: Kept) => k.job !== undefined && o.job === k.job;
  const made = keptNow().filter(
    (o) => (o.operation === "addBike" && ofBike(o)) || (o.operation === "openJob" && ofJob(o)),
  );
  const press = kinds[k.operation].press === true;
  const before = keptNow()
    .filter((o) => ofJob(o) && kinds[o.operation].press)
    .at(-1);
  const readings = keptNow().filter(
    (o) => (o.operation === "recordMeasurement" || o.operation === "replaceChain") && ofBike(o),
  );
  const all = k.operation === "handBack" ? keptNow().filter((o) => ofJob(o) && !kinds[o.operation].picture) : [];
  const needs = [...made, ...(press ? [...readings, ...(before ? [before] : []), ...all] : [])];
  const last = (press ? before : undefined) ?? made.at(-1);
  return { needs: [...new Set(needs.map((o) => o.key))], ...(last ? { follows: last.key } : {}) };
}
