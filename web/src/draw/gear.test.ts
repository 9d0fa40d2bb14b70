import { expect, it } from "vitest";
import type { GearPath } from "../api/client";
import { gear, lengthsAround } from "./gear";

const wheel = (
  name: GearPath["wheels"][number]["name"],
  teeth: number,
  x_mm: number,
  y_mm: number,
  clockwise: boolean,
): GearPath["wheels"][number] => {
  const radius_mm = 12.7 / (2 * Math.sin(Math.PI / teeth));
  return {
    name,
    teeth,
    centre: { x_mm, y_mm },
    radius_mm,
    clockwise,
    from: { x_mm, y_mm: y_mm + radius_mm },
    to: { x_mm, y_mm: y_mm - radius_mm },
    angle_rad: Math.PI * 0.9,
  };
};

// The cage hangs straight down.
const path: GearPath = {
  ring: 40,
  sprocket: 20,
  cage_deg: 0,
  length_mm: 110 * 12.7,
  idle: [{ teeth: 48, centre: { x_mm: 0, y_mm: 0 }, radius_mm: 97.1 }],
  wheels: [
    wheel("ring", 40, 0, 0, true),
    wheel("tension-pulley", 12, -410, -150, true),
    wheel("guide-pulley", 12, -410, -75, false),
    wheel("sprocket", 20, -430, 0, true),
  ],
};

it("draws every wheel to one scale, within the drawing, with room for the cage to swing", () => {
  for (const [width, tallest] of [
    [560, 380],
    [330, 230],
  ] as const) {
    const g = gear(path, width, tallest);
    const [ring, tension, guide, sprocket] = g.wheels;
    expect((ring?.x ?? 0) - (sprocket?.x ?? 0)).toBeCloseTo(430 * g.scale, 6);
    expect((tension?.y ?? 0) - (guide?.y ?? 0)).toBeCloseTo(75 * g.scale, 6); // below on the screen too
    expect(g.link).toBeCloseTo(12.7 * g.scale, 6);
    expect(g.height).toBeLessThanOrEqual(tallest + 1);
    expect((ring?.x ?? 0) + (g.idle[0]?.r ?? 0)).toBeLessThanOrEqual(width); // a larger ring beside it is in view too
    expect(g.idle[0]?.r).toBeCloseTo(97.1 * g.scale, 6);
    for (const w of g.wheels)
      for (const point of w.teeth.split(" ")) {
        const [x = -1, y = -1] = point.split(",").map(Number);
        expect(x).toBeGreaterThanOrEqual(0);
        expect(x).toBeLessThanOrEqual(width);
        expect(y).toBeGreaterThanOrEqual(0);
        expect(y).toBeLessThanOrEqual(g.height);
      }
    expect([g.at.x, g.at.y]).toEqual([g.cage.x2, g.cage.y2]);
  }
});

it("runs the chain the way it turns, and once round where an arc is more than half", () => {
  const [first, ...rest] = path.wheels;
  const wide = { ...path, wheels: [{ ...(first as GearPath["wheels"][number]), angle_rad: 4 }, ...rest] };
  const arcs = [...gear(wide, 560, 380).chain.matchAll(/A\S+ \S+ 0 (\d) (\d)/g)].map((m) => `${m[1]}${m[2]}`);
  expect(arcs).toEqual(["11", "01", "00", "01"]); // the guide pulley turns the other way
  const none = {
    ...path,
    wheels: [...path.wheels.slice(0, 3), { ...(path.wheels[3] as GearPath["wheels"][number]), angle_rad: 0 }],
  };
  expect(gear(none, 560, 380).chain.match(/A/g)).toHaveLength(3);
});

it("sets lengths on an even bar with room to both sides", () => {
  const bar = lengthsAround([116, 113, 120]);
  expect([bar.from, bar.to, bar.even.length]).toEqual([108, 124, 9]);
  expect([bar.at(108), bar.at(116), bar.at(124)]).toEqual([0, 0.5, 1]);
});
