import type { WaitView } from "../api/client";

// How what runs by itself stands at a moment. Ends are times of the server's clock.

export type WaitState =
  | { kind: "runs"; left: number; share: number } // until what follows may begin; share is what is left of it
  | { kind: "clock"; left: number; share: number } // nothing to wait for, only a latest time
  | { kind: "over"; late: number | undefined } // calls until somebody takes it; late is until it is too late
  | { kind: "late"; by: number };

/** How a wait stands; times in milliseconds. */
export function waitState(w: WaitView, now: number): WaitState {
  const began = Date.parse(w.began_at);
  const least = Date.parse(w.least_at);
  const most = w.most_at === undefined ? undefined : Date.parse(w.most_at);
  if (most !== undefined && now >= most) return { kind: "late", by: now - most };
  if (least <= began && most !== undefined)
    return { kind: "clock", left: most - now, share: part(most - now, most - began) };
  if (now < least) return { kind: "runs", left: least - now, share: part(least - now, least - began) };
  return { kind: "over", late: most === undefined ? undefined : most - now };
}

const part = (left: number, whole: number) => (whole <= 0 ? 0 : Math.min(1, Math.max(0, left / whole)));

/** When a wait next asks for somebody: at its end, or at its latest time where it has no other. */
export function nextEnd(w: WaitView): number {
  const least = Date.parse(w.least_at);
  return w.most_at !== undefined && least <= Date.parse(w.began_at) ? Date.parse(w.most_at) : least;
}

/** How soon before it is too late somebody is warned. */
const warning = 5 * 60_000;

/** Whether somebody must be called to it. */
export function calls(s: WaitState): boolean {
  return s.kind === "over" || s.kind === "late" || (s.kind === "clock" && s.left < warning);
}

/** 12:40, or 2:05:00 above an hour; part of a second counts as one, so that 0:00 is over. */
export function clockOf(ms: number): string {
  const s = Math.max(0, Math.ceil(ms / 1000));
  const two = (n: number) => String(n).padStart(2, "0");
  const h = Math.floor(s / 3600);
  return h > 0 ? `${h}:${two(Math.floor((s % 3600) / 60))}:${two(s % 60)}` : `${Math.floor(s / 60)}:${two(s % 60)}`;
}
