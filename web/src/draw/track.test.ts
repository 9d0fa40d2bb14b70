import { expect, it } from "vitest";
import type { WearTrack } from "../api/client";
import { ticks, track } from "./track";

const reading = (
  id: string,
  hard_km: number,
  elongation_pct: number,
  chain: number,
): WearTrack["readings"][number] => ({
  entry_id: id,
  taken_at: "2026-05-04T12:00:00Z",
  by: "Mira Oxenholt",
  instrument: "Dial gauge",
  kind: "gauge-percent",
  hard_km,
  spreads: id === "old",
  chain,
  elongation_pct,
  sigma_pct: 0.05,
});

const data: WearTrack = {
  now_hard_km: 4000,
  hard_per_km: 1.4,
  rate_hard_km_per_day: 14,
  limit_pct: 0.5,
  together_pct: 0.75,
  chains: [
    {
      entry_id: "a",
      part_id: "a",
      before_hard_km: 0,
      fitted_at: "2025-11-04T12:00:00Z",
      fitted_by: "Mira Oxenholt",
      from_hard_km: 0,
      hard_km: 2500,
    },
    {
      entry_id: "b",
      part_id: "b",
      before_hard_km: 0,
      fitted_at: "2026-03-04T12:00:00Z",
      fitted_by: "Mira Oxenholt",
      from_hard_km: 2500,
      hard_km: 1500,
    },
  ],
  segments: [],
  parts: { chains: [], sets: [] },
  both_sorts: false,
  readings: [
    reading("old", 2000, 0.45, 0),
    {
      ...reading("bar", 3000, 0, 1),
      kind: "gauge-dropin",
      elongation_pct: undefined,
      sigma_pct: undefined,
      low_pct: 0,
      high_pct: 0.5,
    },
    reading("new", 4000, 0.2, 1),
  ] as WearTrack["readings"],
  forecast: {
    left_hard_km: { p10: 900, p50: 1800, p90: 3000 },
    p_past_limit: 0,
    next_check_hard_km: 900,
    measured: true,
    k_hard_km: { p10: 2400, p50: 3300, p90: 4500 },
    band: Array.from({ length: 49 }, (_, i) => ({ hard_km: i * 100, p10: i * 0.01, p50: i * 0.014, p90: i * 0.02 })),
    warnings: [],
  },
  missing: [],
};

it("puts everything where its numbers say, and within the drawing", () => {
  const t = track(data, 700, 320);
  const perKM = (t.today - t.left) / 4000;
  expect((t.changes[1]?.x ?? 0) - t.left).toBeCloseTo(2500 * perKM, 6);
  expect((t.nextCheck ?? 0) - t.today).toBeCloseTo(900 * perKM, 6);
  expect(t.base).toBeGreaterThan(t.limit ?? 0);
  expect(t.limit).toBeGreaterThan(t.together ?? 0);
  const [old, bar, latest] = t.marks;
  expect((old?.x ?? 0) - t.left).toBeCloseTo(2000 * perKM, 6);
  expect([old?.current, bar?.current, latest?.current]).toEqual([false, true, true]);
  expect([bar?.shape, latest?.shape]).toEqual(["bar", "circle"]);
  expect([old?.hollow, latest?.hollow]).toEqual([true, false]); // what spreads the rollers is told apart

  expect(bar?.top).toBeCloseTo(t.limit ?? 0, 6); // the interval ends at the limit
  expect(bar?.bottom).toBeCloseTo(t.base, 6);
  expect((latest?.bottom ?? 0) - (latest?.top ?? 0)).toBeCloseTo((2 * 0.05 * (t.base - (t.limit ?? 0))) / 0.5, 6);
  for (const m of t.marks) {
    expect(m.x).toBeGreaterThanOrEqual(t.left);
    expect(m.x).toBeLessThanOrEqual(t.right);
    expect(m.top).toBeGreaterThanOrEqual(t.top - 0.001);
  }
  // The band begins where the chain now on began.
  expect(Number(t.median.split(",")[0])).toBeCloseTo(t.changes[1]?.x ?? 0, 0);
});

it("draws what there is of a bike that is hardly known", () => {
  const { forecast: _, limit_pct: __, together_pct: ___, ...bare } = data;
  const t = track(
    { ...bare, chains: [], readings: [reading("one", 0, -0.02, -1)], now_hard_km: 0, missing: ["chain-fitted"] },
    320,
    240,
  );
  expect([t.band, t.median, t.limit, t.nextCheck]).toEqual(["", "", null, null]);
  expect(Number.isFinite(t.marks[0]?.y)).toBe(true);
});

it("chooses round numbers", () => {
  expect(ticks(0, 9000, 6)).toEqual([0, 2000, 4000, 6000, 8000]);
  expect(ticks(0, 0.9, 5)).toEqual([0, 0.2, 0.4, 0.6, 0.8]);
  expect(ticks(-0.05, 1.2, 5)).toEqual([0, 0.25, 0.5, 0.75, 1]);
});

it("counts in miles where the shop does", () => {
  const t = track(data, 700, 320, (km) => km / 1.609344);
  const mile = t.xTicks.find((k) => k.label === "2,000");
  expect((mile?.x ?? 0) - t.left).toBeCloseTo((2000 * 1.609344 * (t.today - t.left)) / 4000, 6);
});
