import { useSyncExternalStore } from "react";
import { sayError } from "./said";

// What a hand that slipped did can be taken back for ten seconds. What cannot be undone, as a line through an entry of
// the ledger that nobody removes, is not done before they are over, and says so.

/** How long something can be taken back, in milliseconds. */
export const takeBackFor = 10_000;

export type Slip = {
  id: number;
  /** What was done, or will be when the time is over. */
  words: string;
  until: number;
  /** What it is about, as "job" or "job/step": a later one about the same takes its place. */
  about?: string;
  /** It is done when the time is over, and not before. */
  held: boolean;
  state: "open" | "taking-back" | "doing" | "failed";
  failure?: string;
  /** Takes it back; fails where that is no longer possible. */
  back: () => Promise<unknown>;
  /** Of what is held: does it. */
  send?: () => Promise<unknown>;
};

let slips: Slip[] = [];
let last = 0;
const listeners = new Set<() => void>();

const set = (next: Slip[]) => {
  slips = next;
  for (const tell of listeners) tell();
};

const change = (id: number, part: Partial<Slip>) => set(slips.map((s) => (s.id === id ? { ...s, ...part } : s)));

const drop = (id: number) => set(slips.filter((s) => s.id !== id));

/** Offers to take back what was just done; where it says about what, only the last of it. */
export function offerBack(words: string, back: () => Promise<unknown>, about?: string): void {
  const id = ++last;
  const others = slips.filter((s) => about === undefined || s.about !== about || s.state !== "open");
  const slip: Slip = { id, words, until: Date.now() + takeBackFor, held: false, state: "open", back };
  set([...others, about === undefined ? slip : { ...slip, about }]);
  window.setTimeout(() => slips.find((s) => s.id === id)?.state === "open" && drop(id), takeBackFor);
}

/** Ends the offers about something that is closed, or about a part of it: they could only be refused. */
export function endOffers(about: string): void {
  const of = (s: Slip) => s.state === "open" && !s.held && (s.about === about || s.about?.startsWith(`${about}/`));
  set(slips.filter((s) => !of(s)));
}

/** Does something when the time in which it can be taken back is over, or when the page is left before. */
export function holdBack(words: string, send: () => Promise<unknown>): void {
  const id = ++last;
  const slip: Slip = {
    id,
    words,
    until: Date.now() + takeBackFor,
    held: true,
    state: "open",
    back: async () => {},
    send,
  };
  set([...slips, slip]);
  window.setTimeout(() => void doHeld(id), takeBackFor);
}

async function doHeld(id: number): Promise<void> {
  const slip = slips.find((s) => s.id === id);
  if (slip?.state !== "open" || !slip.send) return;
  change(id, { state: "doing" });
  try {
    await slip.send();
    drop(id);
  } catch (e) {
    change(id, { state: "failed", failure: sayError(e) });
  }
}

/** Takes one back. */
export async function takeBack(id: number): Promise<void> {
  const slip = slips.find((s) => s.id === id);
  if (slip?.state !== "open") return;
  change(id, { state: "taking-back" });
  try {
    await slip.back();
    drop(id);
  } catch (e) {
    change(id, { state: "failed", failure: sayError(e) });
  }
}

export const dismiss = drop;

/** Forgets all that could be taken back; what is held is not done. */
export const dismissAll = (): void => set([]);

/** Does at once what is held: whoever did it goes, and it is theirs. */
export const doAllHeld = (): Promise<unknown> =>
  Promise.all(slips.filter((s) => s.held && s.state === "open").map((s) => doHeld(s.id)));

// Who closes the tab meant what they did.
if (typeof window !== "undefined") window.addEventListener("pagehide", () => void doAllHeld());

/** What can be taken back now. */
export function useSlips(): Slip[] {
  return useSyncExternalStore(
    (tell) => {
      listeners.add(tell);
      return () => listeners.delete(tell);
    },
    () => slips,
  );
}
