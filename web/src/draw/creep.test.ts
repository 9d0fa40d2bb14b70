import { describe, expect, it } from "vitest";
import type { Strip } from "../api/client";
import { creep, spread } from "./creep";

const ruler: Strip = {
  links: 24,
  new_mm: 304.8,
  limit_mm: 306.324,
  together_mm: 307.086,
  mean_mm: 306.4,
  error_mm: 0.2,
  places: [
    { place: 1, at_mm: 306.2 },
    { place: 2, at_mm: 306.6 },
  ],
};

describe("the creep strip is drawn to true proportion", () => {
  for (const width of [300, 366, 492, 780, 1400]) {
    it(`at ${width} px`, () => {
      const c = creep(ruler, width);
      // The last pin is past the mark by the growth, at the strip's own scale and in the lens.
      expect((c.pins.at(-1) ?? 0) - c.newOnStrip).toBeCloseTo(1.6 * c.scale, 6);
      expect((c.lensMean ?? 0) - c.lensNew).toBeCloseTo(1.6 * c.lensScale, 6);
      expect(c.lensScale / c.scale).toBeCloseTo(c.times, 9);
      expect(c.lensLimit - c.lensNew).toBeCloseTo(1.524 * c.lensScale, 6);
      // Links are all of one length, and everything that matters lies within the drawing.
      const pitches = c.pins.slice(1).map((x, i) => x - (c.pins[i] ?? 0));
      for (const p of pitches) expect(p).toBeCloseTo(pitches[0] ?? 0, 6);
      for (const x of [c.lensNew, c.lensLimit, c.lensTogether, c.lensMean ?? 0, ...c.lensPlaces.map((p) => p.x)]) {
        expect(x).toBeGreaterThanOrEqual(14);
        expect(x).toBeLessThanOrEqual(width - 14);
      }
      // Ruler marks stand where their numbers say.
      const labelled = c.lensTicks.filter((t) => t.label !== null);
      expect(labelled.length).toBeGreaterThan(1);
      for (const t of labelled) expect(t.x).toBeCloseTo(c.lensNew + (Number(t.label) - 304.8) * c.lensScale, 3);
    });
  }
});

it("shows a tool that looked no further as open", () => {
  const { mean_mm: _, error_mm: __, ...rest } = ruler;
  const c = creep({ ...rest, low_mm: 306.324, places: [] }, 492);
  expect(c.openAbove).toBe(true);
  expect(c.lensMean).toBeNull();
  expect(c.lensBand?.[1]).toBe(492 - 14);
});

it("keeps a chain shorter than new, and one worn out, within the drawing", () => {
  for (const mean_mm of [304.2, 313.9]) {
    const c = creep({ ...ruler, mean_mm, places: [{ place: 1, at_mm: mean_mm }] }, 492);
    expect(c.lensMean).toBeGreaterThan(14);
    expect(c.lensMean).toBeLessThan(478);
  }
});

it("moves labels apart without changing their order", () => {
  const xs = spread(
    [
      { x: 100, width: 40 },
      { x: 104, width: 40 },
      { x: 470, width: 92 },
    ],
    10,
    480,
  );
  expect(xs[1]).toBeGreaterThanOrEqual((xs[0] ?? 0) + 40);
  expect((xs[2] ?? 0) + 46).toBeLessThanOrEqual(480);
});
