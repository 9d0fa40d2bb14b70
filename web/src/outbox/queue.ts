import type { QueryClient } from "@tanstack/react-query";
import { useMemo, useSyncExternalStore } from "react";
import { idempotencyKey, type Job, type Session } from "../api/client";
import { keys } from "../api/keys";
import { type Kept, kinds } from "./kinds";
import * as shelf from "./shelf";

// What is kept on this device and was not sent, as this tab knows it, and what the screens are told of it. All tabs have the
// same: each tells the others when it changes it.

const lockName = "pony.outbox";
const channelName = "pony.outbox";

/** As long as the server keeps answers: older ones are not sent without a person's word. One day less, for slow clocks. */
const answersKept = 13 * 24 * 3_600_000;

/** How long after it was made a tab that is gone may still have waited for one. */
const gone = 4_000;

/** This tab, as what it makes is marked until nobody waits for it any more. */
export const thisTab = idempotencyKey();

export type Answered = { kind: "answered"; key: string; status: number; text: string };
export type News = { kind: "changed" } | Answered;

let client: QueryClient | undefined;
let kept: Kept[] = [];
let on: Kept[] = [];
let broken: string | undefined;
const listeners = new Set<() => void>();
const waiting = new Map<string, (answer: Response) => void>();

/** Says what the page asked and was answered: what is kept is laid upon that. */
export function setQueryClient(of: QueryClient): void {
  client = of;
}

/** What the page asked and was answered; nothing before it began. */
export const queryClient = (): QueryClient | undefined => client;

/** What is kept, oldest first, as this tab last read it. */
export const keptNow = (): Kept[] => kept;

export const sessionNow = (): Session | undefined => client?.getQueryData<Session | null>(keys.session) ?? undefined;

/** A job as the server last told it. */
export const jobNow = (id: string | undefined): Job | undefined =>
  id ? client?.getQueryData<Job>(keys.job(id)) : undefined;

/** Tells the screens. */
export const tell = (): void => {
  for (const one of [...listeners]) one();
};

const channel = typeof BroadcastChannel === "undefined" ? undefined : new BroadcastChannel(channelName);

/** Tells the other tabs. */
export const tellOthers = (news: News): void => channel?.postMessage(news);

/** Hears what other tabs tell; returns what ends that. */
export function onNews(hear: (news: News) => void): () => void {
  const heard = (e: MessageEvent<News>) => hear(e.data);
  channel?.addEventListener("message", heard);
  return () => channel?.removeEventListener("message", heard);
}

/** Reads what is kept anew: this tab, or another one, changed it. */
export async function read(): Promise<void> {
  kept = await shelf.unsent();
  const now = kept.filter(goneOn);
  if (now.length !== on.length || now.some((k, i) => k !== on[i])) on = now;
  // One of a tab that may be gone is looked at again.
  if (now.length < kept.length && kept.some((k) => k.tab && k.tab !== thisTab))
    window.setTimeout(() => void read().catch(() => {}), gone);
  tell();
}

/** Reads what this tab changed, and has the others read it. */
export async function changed(): Promise<void> {
  await read();
  tellOthers({ kind: "changed" });
}

/** Locks are there only on a secure address; elsewhere the keys see to it that two tabs do a thing once. */
export const locked = (does: () => Promise<void>): Promise<void> =>
  navigator.locks ? navigator.locks.request(lockName, does).then(() => undefined) : does();

/** Something could be kept again, or the reason why nothing can. */
export function setBroken(by?: unknown): void {
  broken = by === undefined ? undefined : whyNotKept(by);
}

/** Why nothing can be kept here. */
function whyNotKept(e: unknown): string {
  if (e instanceof DOMException && e.name === "QuotaExceededError")
    return "The storage of this device is full: nothing more can be kept without a connection. Make room, or write it on paper until the connection is back.";
  return "This browser keeps nothing between pages, as in a private window: without a connection nothing can be written here.";
}

/** The answer to one, for the screen it was made on. */
export const answerTo = (key: string): Promise<Response> => new Promise((resolve) => waiting.set(key, resolve));

/** The screen goes on without the answer. */
export const waitNoMore = (key: string): void => void waiting.delete(key);

/** Whether a screen of this tab waits for the answer to one. */
export const isWaitedFor = (key: string): boolean => waiting.has(key);

/** Hands an answer to the screen that waits for it. */
export function deliver(news: Answered): void {
  const to = waiting.get(news.key);
  waiting.delete(news.key);
  to?.(
    new Response(news.status === 204 ? null : news.text, {
      status: news.status,
      headers: { "Content-Type": "application/json" },
    }),
  );
}

/** Whether anything is kept, or still on its way. */
export const isEmpty = (): boolean => kept.length === 0 && waiting.size === 0;

/** Whether the screens go on as if it had arrived: not while the one on which it was written still waits for the server. */
const goneOn = (k: Kept): boolean => (k.tab === thisTab ? !waiting.has(k.key) : !k.tab || Date.now() - k.at > gone);

/** What a person must decide on before it is sent. */
export const isOld = (k: Kept, now = Date.now()): boolean => !k.lookedOver && now - k.at > answersKept;

/** Whether its author must sign in here first. */
export const isSealed = (k: Kept): boolean => (k.sealed ?? false) || (k.unasked ?? false);

/** Whether it is of somebody who must sign in before anybody is shown it. */
export const isAnothers = (k: Kept): boolean => (k.sealed ?? false) && k.author.id !== sessionNow()?.person.id;

/** What stops it: something it is built on that was refused, or waits itself. */
const stoppedBy = (k: Kept, all: Kept[]): Kept | undefined => all.find((o) => k.needs.includes(o.key));

/** What is sent next: in order, photos last. */
export const nextOf = (all: Kept[]): Kept | undefined => {
  const can = all.filter((k) => !k.refused && !isOld(k) && !isSealed(k) && !stoppedBy(k, all));
  return can.find((k) => !kinds[k.operation].picture) ?? can[0];
};

/** Those that are not sent before a person decided: refused ones, and all that is built on them. */
export function stopped(all: Kept[]): Set<string> {
  const keys = new Set(all.filter((k) => k.refused || isOld(k)).map((k) => k.key));
  for (const k of all) if (k.needs.some((n) => keys.has(n))) keys.add(k.key); // in order: one pass reaches all
  return keys;
}

/** Those, and all that is built on them. */
export function builtOn(which: string[]): Set<string> {
  const all = new Set(which);
  for (const k of kept) if (k.needs.some((n) => all.has(n))) all.add(k.key);
  return all;
}

const signedInAt = new Map<string, number>();

/** Somebody signs in on this device now. */
export const signedInNow = (person: string): void => void signedInAt.set(person, Date.now());

/** Whether somebody signed in here since: what the server said before of who they are holds no longer. */
export const signedInSince = (person: string, at: number): boolean => (signedInAt.get(person) ?? 0) >= at;

/** The people of whom this device keeps something unsent. */
export const unsentOf = (): string[] => [...new Set(kept.map((k) => k.author.id))];

const listen = (one: () => void) => {
  listeners.add(one);
  return () => void listeners.delete(one);
};

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
