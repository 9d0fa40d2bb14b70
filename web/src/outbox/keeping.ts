import { hydrate, type Query, type QueryClient, type QueryKey } from "@tanstack/react-query";
import type { PersistedClient, Persister } from "@tanstack/react-query-persist-client";
import type { Bike, Floor, Job, JobSummary } from "../api/client";
import { keys } from "../api/keys";
import {
  bathsOptions,
  bikeDueOptions,
  bikeOptions,
  floorOptions,
  instrumentsOptions,
  jobOptions,
  jobsOptions,
  jobWordsOptions,
  ledgerOptions,
  materialsOptions,
  peopleOptions,
  replacementOptions,
  rulesOptions,
  stockOptions,
  waitsOptions,
} from "../api/queries";
import { look, onReach, reachNow } from "./reach";
import * as shelf from "./shelf";

// What a stand needs without a network lies on the device before it is needed: the day, the open jobs with their blocks, their
// bikes and history, tools, settings, what is in stock. Nothing of it has a customer's contacts, a message or a photo.

/** How long it may be shown. */
export const keptFor = 14 * 24 * 3_600_000;

/** Answers that are kept, by the beginning of their name; with how long the rest of it may be. */
const parts: [QueryKey, number][] = [
  [keys.session, 0],
  [keys.people, 0],
  [keys.day, 0],
  [keys.jobs, 2],
  [keys.jobWords, 0],
  [keys.waits, 0],
  [keys.baths, 0],
  [keys.fluids, 0],
  [keys.everyBike, 2],
  [keys.instruments, 0],
  [keys.rules, 0],
  [keys.stock, 1],
];

/** Of a bike and a job, what else has a name of its own and is not kept. */
const not = new Set(["cleaning", "reports", "ride-drafts", "costs", "routes", "preview"]);

const isKept = (key: QueryKey) =>
  parts.some(([head, more]) => head.every((p, i) => key[i] === p) && key.length <= head.length + more) &&
  !key.some((p) => typeof p === "string" && not.has(p));

/** Whether an answer is kept on this device. */
export const keepsOf = (q: Query): boolean => q.state.data !== undefined && q.state.data !== null && isKept(q.queryKey);

/** A customer's own words stand in a job; they are not kept. */
function withoutWords(key: QueryKey, data: unknown): unknown {
  const job = data as Partial<Job> | undefined;
  if (key[0] !== keys.jobs[0] || !job?.intake) return data;
  const intake = { ...job.intake };
  delete intake.reports;
  delete intake.wants;
  return { ...job, intake };
}

const slot = "answers";
const every = 3_000;
/** How long a page that is loaded looks for the server before it shows what is kept. */
const patience = 1_500;

let ended = false;
/** What was kept by the pages before: shown where the server is away, and else asked for as if nothing were kept. */
let held: PersistedClient | undefined;

const isSession = (q: { queryKey: QueryKey }) => q.queryKey[0] === keys.session[0];

/** Keeps no more answers from this page on, and takes off who was signed in: they signed out. */
export async function endKeeping(): Promise<void> {
  ended = true;
  const kept = await shelf.shown<PersistedClient>(slot).catch(() => undefined);
  if (!kept) return;
  const queries = kept.clientState.queries.filter((q) => !isSession(q));
  await shelf.show(slot, { ...kept, clientState: { ...kept.clientState, queries } }).catch(() => {});
}

/** Forgets what is held of the shop. */
export function forgetHeld(): void {
  held = undefined;
}

/** Has what was kept be there as soon as the server is away; returns what ends that. */
export function showKeptWhenAway(client: QueryClient): () => void {
  const look = () => {
    if (!reachNow().reached && held) hydrate(client, held.clientState);
  };
  look();
  return onReach(look);
}

/** Keeps answers in the browser's database, at most every three seconds. */
export function persister(): Persister {
  let next: PersistedClient | undefined;
  let timer: number | undefined;
  const write = () => {
    timer = undefined;
    const now = next;
    if (!now || ended) return;
    // Without what cannot be written down, as the functions that say until when an answer holds.
    const queries = now.clientState.queries.map((q) => ({
      queryKey: q.queryKey,
      queryHash: q.queryHash,
      state: {
        ...q.state,
        data: withoutWords(q.queryKey, q.state.data),
        error: null,
        status: "success" as const,
        fetchStatus: "idle" as const,
      },
    }));
    const here = new Set(queries.map((q) => q.queryHash));
    const before = (held?.clientState.queries ?? []).filter(
      (q) => !here.has(q.queryHash) && !isSession(q) && Date.now() - q.state.dataUpdatedAt < keptFor,
    );
    if (reachNow().heard > 0) void shelf.show("heard", reachNow().heard).catch(() => {});
    const all = { ...now, clientState: { queries: [...queries, ...before], mutations: [] } };
    void shelf.show(slot, all).catch(() => {}); // it works online as before
  };
  return {
    persistClient: (client) => {
      next = client;
      if (timer === undefined) timer = window.setTimeout(write, every);
    },
    restoreClient: async () => {
      const kept = await shelf.shown<PersistedClient>(slot).catch(() => undefined);
      if (!kept || kept.buster !== __CONTRACT__ || Date.now() - kept.timestamp > keptFor) return undefined;
      held = kept;
      const late = new Promise<boolean>((resolve) => window.setTimeout(() => resolve(false), patience));
      return (await Promise.race([look(), late])) ? undefined : kept;
    },
    removeClient: async () => shelf.show(slot, undefined).catch(() => {}),
  };
}

/** What is kept stays in the page's memory, too, however long nobody looks at it. */
export function keepInMind(client: QueryClient): void {
  for (const [head] of parts) client.setQueryDefaults(head, { gcTime: keptFor });
}

/** How long what was fetched ahead is good enough, as long as nobody tells that it changed; and what turns on the time of day. */
const fresh = 15 * 60_000;
const ofNow = 60_000;
/** How many bikes and jobs are fetched ahead at the most. */
const most = 60;

/** Fetches what a stand needs, one after the other, so that nobody who waits for something waits for this. */
export async function getReady(client: QueryClient): Promise<void> {
  const get = async (fetched: Promise<unknown>) => {
    await fetched.catch(() => {}); // what cannot be fetched now is the next time
  };
  for (const of of [
    jobWordsOptions,
    peopleOptions,
    instrumentsOptions,
    rulesOptions,
    waitsOptions,
    bathsOptions,
    materialsOptions,
  ]) {
    if (!reachNow().reached) return;
    await get(client.fetchQuery({ ...of, staleTime: fresh } as typeof jobWordsOptions));
  }
  await get(client.fetchQuery({ ...stockOptions(false), staleTime: fresh }));
  await get(client.fetchQuery({ ...jobsOptions, staleTime: ofNow }));
  await get(client.fetchQuery({ ...floorOptions, staleTime: ofNow }));
  const open = client.getQueryData<JobSummary[]>(keys.jobs) ?? [];
  const day = client.getQueryData<Floor>(keys.day)?.jobs ?? [];
  const first = new Map(day.map((j, i) => [j.job, i]));
  const jobs = open.toSorted((a, b) => (first.get(a.id) ?? most) - (first.get(b.id) ?? most)).slice(0, most);
  for (const j of jobs) {
    if (!reachNow().reached) return;
    await get(client.fetchQuery({ ...jobOptions(j.id), staleTime: fresh }));
    await get(client.fetchQuery({ ...bikeOptions(j.tag), staleTime: fresh }));
    await get(client.fetchInfiniteQuery({ ...ledgerOptions(j.tag), staleTime: fresh }));
    await get(client.fetchQuery({ ...replacementOptions(j.tag), staleTime: fresh }));
    await get(client.fetchQuery({ ...bikeDueOptions(j.tag), staleTime: fresh }));
  }
}

/** How long after the page is there, and how often since, it is seen to. */
const afterwards = 6_000;
const again = 60_000;

/** Sees to it that what is needed is here, for as long as somebody is signed in. */
export function keepReady(client: QueryClient): () => void {
  let timer: number | undefined;
  let over = false;
  const round = async () => {
    if (document.visibilityState === "visible" && reachNow().reached) await getReady(client);
    if (!over) timer = window.setTimeout(() => void round(), again);
  };
  timer = window.setTimeout(() => void round(), afterwards);
  const end = onReach(() => {
    if (!reachNow().reached || over) return;
    window.clearTimeout(timer);
    timer = window.setTimeout(() => void round(), afterwards);
  });
  return () => {
    over = true;
    window.clearTimeout(timer);
    end();
  };
}

/** The bikes that are kept, for whoever looks for one without a network. */
export const keptBikes = (client: QueryClient): Bike[] =>
  client
    .getQueriesData<Bike>({ queryKey: keys.everyBike, predicate: (q) => q.queryKey.length === 2 })
    .flatMap(([, bike]) => (bike ? [bike] : []));
