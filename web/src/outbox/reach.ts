import { useSyncExternalStore } from "react";

// Whether the server answers. It is seen from what is asked of it, whatever the browser thinks of its network.

export type Reach = {
  /** Nothing is known to be wrong. */
  reached: boolean;
  /** When it was last heard, by this device's clock; 0: not since the page was loaded. */
  heard: number;
  /** Since when it is not. */
  since: number;
  /** What the server itself says of it. */
  why?: string;
};

let reach: Reach = { reached: true, heard: 0, since: 0 };
const listeners = new Set<() => void>();

function set(to: Reach): void {
  const news = to.reached !== reach.reached || to.why !== reach.why;
  reach = to;
  if (news) for (const tell of [...listeners]) tell();
}

/** The server answered something. */
export function found(): void {
  tries = 0;
  set({ reached: true, heard: Date.now(), since: 0 });
}

/** The server did not answer, or says why it cannot. */
export function lost(why?: string): void {
  set({ reached: false, heard: reach.heard, since: reach.since || Date.now(), ...(why ? { why } : {}) });
  window.clearTimeout(next);
  next = window.setTimeout(() => void look(), Math.min(1_000 * 2 ** tries, 10_000));
}

/** How long the server has to say that it is there. */
const answerIn = 4_000;

let next: number | undefined;
let looking: Promise<boolean> | undefined;
let tries = 0;

/**
 * Looks whether the server is there, and says so. While it is lost it is looked for again and again: nothing else is asked of
 * it then.
 */
export function look(): Promise<boolean> {
  looking ??= ready().then((there) => {
    looking = undefined;
    if (there) found();
    else {
      tries += 1;
      lost(reach.why);
    }
    return there;
  });
  return looking;
}

let looked = 0;

/** Somebody wants something of it: it is looked for at once, unless it just was. */
export function lookSoon(): void {
  if (Date.now() - looked > 2_000) void look();
}

async function ready(): Promise<boolean> {
  looked = Date.now();
  const gone = new AbortController();
  const late = window.setTimeout(() => gone.abort(), answerIn);
  const answer = await globalThis.fetch("/readyz", { cache: "no-store", signal: gone.signal }).catch(() => undefined);
  window.clearTimeout(late);
  return answer?.ok ?? false;
}

/** When the server was last heard before the page was loaded: what is shown is from then until it is heard. */
export function heardBefore(at: number): void {
  if (reach.heard === 0) set({ ...reach, heard: at });
}

export const reachNow = (): Reach => reach;

/** Tells of each change; returns what ends that. */
export function onReach(tell: () => void): () => void {
  listeners.add(tell);
  return () => void listeners.delete(tell);
}

export const useReach = (): Reach => useSyncExternalStore(onReach, reachNow);

/** Whether a write is kept on this device and was not sent yet; the outbox says it. */
export const unsentYet = { has: (_: string): boolean => false };
