import type { Strip } from "../api/client";
import { digits } from "../ui/format";
import { unitOf } from "../ui/units";

// The creep strip as plain marks: numbers in, positions out. Nothing here knows of React.

export type Tick = { x: number; label: string | null };

export type Creep = {
  /** Pixels a millimetre on the whole strip, and in the lens. */
  scale: number;
  lensScale: number;
  /** How many times larger the lens shows the last pin than the strip does. */
  times: number;
  /** Pin centres of the chain on the strip, first to last. */
  pins: number[];
  /** Where a new chain's last pin would be on the strip. */
  newOnStrip: number;
  ticks: Tick[];
  lensTicks: Tick[];
  lensNew: number;
  lensLimit: number;
  lensTogether: number;
  /** What was read, in the lens; null for what the strip does not say. */
  lensMean: number | null;
  lensBand: readonly [number, number] | null;
  lensPlaces: { place: number; x: number }[];
  /** The band goes on past the lens: the tool looked no further. */
  openAbove: boolean;
  /** The true half-width of a pin in the lens. */
  pinRadius: number;
};

const pad = 14;
const pinDiameter = 3.6; // mm, as on ordinary chains; for drawing alone
const magnifications = [60, 50, 40, 30, 25, 20, 15, 12, 10, 8, 6, 5, 4, 3, 2];

/** Lays a strip out over a width in pixels, all of it to true proportion. */
export function creep(strip: Strip, width: number): Creep {
  const room = Math.max(width - 2 * pad, 120);
  const last = strip.mean_mm ?? strip.low_mm ?? strip.new_mm;
  const longest = Math.max(strip.together_mm, last, strip.high_mm ?? 0);
  const scale = (room - 8) / longest;
  const onStrip = (mm: number) => pad + mm * scale;

  const error = strip.error_mm ?? 0;
  const marks = [strip.new_mm, strip.limit_mm, strip.together_mm, ...strip.places.map((p) => p.at_mm)];
  if (strip.mean_mm !== undefined) marks.push(strip.mean_mm - 2 * error, strip.mean_mm + 2 * error);
  if (strip.low_mm !== undefined) marks.push(strip.low_mm);
  if (strip.high_mm !== undefined) marks.push(strip.high_mm);
  const least = Math.min(...marks);
  const most = Math.max(...marks);
  const span = Math.max(most - least, 0.4) * 1.25;
  const times = magnifications.find((t) => t * scale * span <= room) ?? 2;
  const lensScale = times * scale;
  const middle = (least + most) / 2;
  const inLens = (mm: number) => pad + room / 2 + (mm - middle) * lensScale;

  const openAbove = strip.low_mm !== undefined && strip.high_mm === undefined;
  return {
    scale,
    lensScale,
    times,
    pins: Array.from({ length: strip.links + 1 }, (_, i) => onStrip((i * last) / strip.links)),
    newOnStrip: onStrip(strip.new_mm),
    ticks: ticks(0, longest, scale, onStrip, pad, pad + room, 34),
    lensTicks: ticks(
      middle - room / 2 / lensScale,
      middle + room / 2 / lensScale,
      lensScale,
      inLens,
      pad,
      pad + room,
      46,
    ),
    lensNew: inLens(strip.new_mm),
    lensLimit: inLens(strip.limit_mm),
    lensTogether: inLens(strip.together_mm),
    lensMean: strip.mean_mm === undefined ? null : inLens(strip.mean_mm),
    lensBand:
      strip.mean_mm !== undefined
        ? [inLens(strip.mean_mm - error), inLens(strip.mean_mm + error)]
        : strip.low_mm !== undefined
          ? [inLens(strip.low_mm), strip.high_mm === undefined ? pad + room : inLens(strip.high_mm)]
          : null,
    lensPlaces: strip.places.map((p) => ({ place: p.place, x: inLens(p.at_mm) })),
    openAbove,
    pinRadius: (pinDiameter / 2) * lensScale,
  };
}

const steps = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100];

/** Ruler ticks between two lengths: as fine as is legible, labelled as often as there is room. */
function ticks(
  from: number,
  to: number,
  scale: number,
  at: (mm: number) => number,
  left: number,
  right: number,
  label: number,
): Tick[] {
  const unit = unitOf("length").si(1); // in mm
  const fine = steps.find((s) => s * unit * scale >= 6) ?? 100;
  const coarse = steps.find((s) => s * unit * scale >= label && isMultiple(s, fine)) ?? 100;
  const out: Tick[] = [];
  for (let i = Math.ceil(from / unit / fine - 1e-9); i * fine * unit <= to + 1e-9; i++) {
    const own = i * fine;
    const x = at(own * unit);
    if (x < left - 0.5 || x > right + 0.5) continue;
    const text =
      isMultiple(own, coarse) && x > left + 12 && x < right - 12
        ? digits(own, coarse < 1 ? (coarse < 0.1 ? (coarse < 0.01 ? 3 : 2) : 1) : 0)
        : null;
    out.push({ x, label: text });
  }
  return out;
}

const isMultiple = (a: number, b: number) => Math.abs(a / b - Math.round(a / b)) < 1e-6;

/** Moves labels apart along a line so that none covers another, keeping their order. */
export function spread(wanted: { x: number; width: number }[], left: number, right: number): number[] {
  const order = wanted.map((_, i) => i).sort((a, b) => (wanted[a]?.x ?? 0) - (wanted[b]?.x ?? 0));
  const xs = wanted.map((w) => w.x);
  let edge = left;
  for (const i of order) {
    const w = wanted[i];
    if (!w) continue;
    xs[i] = Math.max(w.x, edge + w.width / 2);
    edge = (xs[i] ?? 0) + w.width / 2;
  }
  edge = right;
  for (const i of order.reverse()) {
    const w = wanted[i];
    if (!w) continue;
    xs[i] = Math.min(xs[i] ?? 0, edge - w.width / 2);
    edge = (xs[i] ?? 0) - w.width / 2;
  }
  return xs;
}
