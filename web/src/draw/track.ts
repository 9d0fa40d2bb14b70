import type { WearTrack } from "../api/client";
import { digits } from "../ui/format";

// The wear track as plain marks: what the server answers in, positions out.

export type Mark = {
  id: string;
  x: number;
  y: number; // of the value, or of the middle of the interval
  top: number; // of the error bar or interval
  bottom: number;
  shape: "circle" | "square" | "diamond" | "bar";
  current: boolean; // of the chain now on
  hollow: boolean; // the tool spreads the rollers and reads high
};

export type Track = {
  xTicks: { x: number; label: string }[];
  yTicks: { y: number; label: string }[];
  left: number;
  right: number;
  top: number;
  base: number; // where wear is nothing
  limit: number | null;
  together: number | null;
  today: number;
  changes: { x: number; at: string; labelled: boolean }[]; // labelled where there is room to the next
  /** The 10–90 band as a closed outline, and its median as a line; empty without a forecast. */
  band: string;
  median: string;
  nextCheck: number | null;
  marks: Mark[];
};

const margin = { left: 46, right: 14, top: 24, bottom: 40 };

/** The room that "new chain, 05 Nov 2025" takes. */
const labelWidth = 138;

/** Lays a track out over a drawing of a size in pixels; `of` says kilometres in the shop's unit. */
export function track(t: WearTrack, width: number, height: number, of = (km: number) => km): Track {
  const on = t.chains.at(-1);
  // Where the chain now on would have been new: it may have run before, and come on again.
  const current = on ? on.from_hard_km - on.before_hard_km : 0;
  const band = t.forecast?.band ?? [];
  const high = t.readings.map((r) => (r.elongation_pct ?? r.high_pct ?? (r.low_pct ?? 0) + 0.25) + (r.sigma_pct ?? 0));
  const low = t.readings.map((r) => (r.elongation_pct ?? 0) - (r.sigma_pct ?? 0));
  const yMax = Math.max(0.6, 1.2 * (t.together_pct ?? 0.75), ...high);
  const yMin = Math.min(0, ...low);
  const next = t.forecast && t.forecast.next_check_hard_km > 0 ? t.now_hard_km + t.forecast.next_check_hard_km : null;
  const xMax = Math.max(
    100,
    1.08 * t.now_hard_km,
    (next ?? 0) * 1.1,
    Math.min(current + (band.at(-1)?.hard_km ?? 0), 2.2 * Math.max(t.now_hard_km, 600)),
  );

  const left = margin.left;
  const right = width - margin.right;
  const x = (km: number) => left + (km / xMax) * (right - left);
  const y = (pct: number) =>
    margin.top + ((yMax - Math.min(pct, yMax)) / (yMax - yMin)) * (height - margin.top - margin.bottom);
  const shown = band.filter((p) => current + p.hard_km <= xMax * 1.0001);
  const line = (points: [number, number][]) => points.map(([px, py]) => `${px.toFixed(1)},${py.toFixed(1)}`).join(" ");
  return {
    xTicks: ticks(0, of(xMax), Math.max(3, Math.floor((right - left) / 90))).map((v) => ({
      x: x(v / of(1)),
      label: digits(v, 0, 2),
    })),
    yTicks: ticks(Math.min(0, yMin), yMax, 5).map((v) => ({ y: y(v), label: digits(v, 0, 2) })),
    left,
    right,
    top: margin.top,
    base: y(0),
    limit: t.limit_pct === undefined ? null : y(t.limit_pct),
    together: t.together_pct === undefined || t.together_pct === t.limit_pct ? null : y(t.together_pct),
    today: x(t.now_hard_km),
    changes: t.chains.map((c, i) => {
      const here = x(Math.max(c.from_hard_km, 0));
      const after = t.chains[i + 1];
      return { x: here, at: c.fitted_at, labelled: (after ? x(after.from_hard_km) : right) - here > labelWidth };
    }),
    band: line([
      ...shown.map((p): [number, number] => [x(current + p.hard_km), y(p.p90)]),
      ...shown.toReversed().map((p): [number, number] => [x(current + p.hard_km), y(p.p10)]),
    ]),
    median: line(shown.filter((p) => p.p50 <= yMax).map((p): [number, number] => [x(current + p.hard_km), y(p.p50)])),
    nextCheck: next === null ? null : x(next),
    marks: t.readings.map((r) => {
      const interval = r.elongation_pct === undefined;
      const bottom = interval ? (r.low_pct ?? 0) : (r.elongation_pct ?? 0) - (r.sigma_pct ?? 0);
      const top = interval ? (r.high_pct ?? yMax) : (r.elongation_pct ?? 0) + (r.sigma_pct ?? 0);
      return {
        id: r.entry_id,
        x: x(Math.max(r.hard_km, 0)),
        y: y(r.elongation_pct ?? (bottom + Math.min(top, yMax)) / 2),
        top: y(top),
        bottom: y(bottom),
        shape: interval ? "bar" : (shapes[r.kind] ?? "circle"),
        current: r.chain === t.chains.length - 1,
        hollow: r.spreads,
      };
    }),
  };
}

const shapes: Partial<Record<WearTrack["readings"][number]["kind"], Mark["shape"]>> = {
  ruler: "square",
  "whole-chain": "square",
  "caliper-inside": "diamond",
};

/** Round numbers between two bounds, at most so many. */
export function ticks(from: number, to: number, most: number): number[] {
  const rough = (to - from) / most;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 2.5, 5, 10].map((m) => m * power).find((s) => s >= rough - 1e-12) ?? 10 * power;
  const out: number[] = [];
  for (let i = Math.ceil(from / step - 1e-9); i * step <= to + 1e-9; i++) out.push(Number((i * step).toPrecision(12)));
  return out;
}
