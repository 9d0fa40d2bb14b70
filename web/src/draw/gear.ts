import type { GearPath } from "../api/client";

// A gear as plain marks: what the server laid out in millimetres, to scale, in pixels.

type Wheel = {
  name: GearPath["wheels"][number]["name"];
  x: number;
  y: number;
  teeth: string; // outline
  hole: number;
};

export type Gear = {
  height: number;
  scale: number; // pixels a millimetre
  wheels: Wheel[];
  idle: { key: string; x: number; y: number; r: number }[]; // the others, beside those in use
  chain: string; // its closed way
  link: number; // pixels
  cage: { x1: number; y1: number; x2: number; y2: number };
  /** Where the tension pulley can swing, and where it stands on that arc. */
  swing: string;
  at: { x: number; y: number };
};

const margin = 16;
const toothHeight = 3.4; // mm above and below the pitch circle; for drawing alone
const cageEnds = [-70, 85] as const; // degrees, as the server solves them

/** Lays a gear out over a width, no higher than a height. */
export function gear(p: GearPath, width: number, tallest: number): Gear {
  const radius = (w: GearPath["wheels"][number]) => w.radius_mm + toothHeight + 3;
  const by = (of: (w: GearPath["wheels"][number]) => number) => p.wheels.map(of);
  const guide = p.wheels.find((w) => w.name === "guide-pulley");
  const tension = p.wheels.find((w) => w.name === "tension-pulley");
  if (!guide || !tension) throw new Error("a gear has two jockey wheels");
  const cageLength = Math.hypot(tension.centre.x_mm - guide.centre.x_mm, tension.centre.y_mm - guide.centre.y_mm);
  const swingEnd = (deg: number) => ({
    x: guide.centre.x_mm + cageLength * Math.sin((deg * Math.PI) / 180),
    y: guide.centre.y_mm - cageLength * Math.cos((deg * Math.PI) / 180),
  });
  // Room for the cage wherever it swings, so that the drawing does not jump when it does.
  const lowest = Math.min(...by((w) => w.centre.y_mm - radius(w)), guide.centre.y_mm - cageLength - radius(tension));
  const idle = p.idle.map((w) => ({ ...w, out: w.radius_mm + toothHeight }));
  const left = Math.min(...by((w) => w.centre.x_mm - radius(w)), ...idle.map((w) => w.centre.x_mm - w.out));
  const right = Math.max(...by((w) => w.centre.x_mm + radius(w)), ...idle.map((w) => w.centre.x_mm + w.out));
  const top = Math.max(...by((w) => w.centre.y_mm + radius(w)), ...idle.map((w) => w.centre.y_mm + w.out));
  const scale = Math.min((width - 2 * margin) / (right - left), (tallest - 2 * margin) / (top - lowest));
  const inset = (width - scale * (right - left)) / 2;
  const x = (mm: number) => inset + (mm - left) * scale;
  const y = (mm: number) => margin + (top - mm) * scale;

  const way = p.wheels.map((w, i) => {
    const from = `${x(w.from.x_mm).toFixed(2)} ${y(w.from.y_mm).toFixed(2)}`;
    const to = `${x(w.to.x_mm).toFixed(2)} ${y(w.to.y_mm).toFixed(2)}`;
    const r = (w.radius_mm * scale).toFixed(2);
    const arc = w.angle_rad === 0 ? "" : `A${r} ${r} 0 ${w.angle_rad > Math.PI ? 1 : 0} ${w.clockwise ? 1 : 0} ${to}`;
    return `${i === 0 ? "M" : "L"}${from}${arc}`;
  });
  const [slack, tight] = [swingEnd(cageEnds[0]), swingEnd(cageEnds[1])];
  const swingRadius = (cageLength * scale).toFixed(2);
  return {
    height: Math.ceil(scale * (top - lowest) + 2 * margin),
    scale,
    wheels: p.wheels.map((w) => ({
      name: w.name,
      x: x(w.centre.x_mm),
      y: y(w.centre.y_mm),
      teeth: outline(x(w.centre.x_mm), y(w.centre.y_mm), w.radius_mm * scale, w.teeth, toothHeight * scale),
      hole: (w.name.endsWith("pulley") ? 3 : 8) * scale,
    })),
    idle: idle.map((w) => ({
      key: `${w.centre.x_mm}:${w.teeth}`,
      x: x(w.centre.x_mm),
      y: y(w.centre.y_mm),
      r: w.radius_mm * scale,
    })),
    chain: `${way.join("")}Z`,
    link: (p.length_mm / Math.round(p.length_mm / 12.7)) * scale,
    cage: {
      x1: x(guide.centre.x_mm),
      y1: y(guide.centre.y_mm),
      x2: x(tension.centre.x_mm),
      y2: y(tension.centre.y_mm),
    },
    swing: `M${x(slack.x).toFixed(2)} ${y(slack.y).toFixed(2)}A${swingRadius} ${swingRadius} 0 0 0 ${x(tight.x).toFixed(2)} ${y(tight.y).toFixed(2)}`,
    at: { x: x(tension.centre.x_mm), y: y(tension.centre.y_mm) },
  };
}

/** The toothed outline of a wheel. */
function outline(cx: number, cy: number, r: number, teeth: number, height: number): string {
  const points: string[] = [];
  for (let i = 0; i < teeth; i++) {
    for (const [part, out] of [
      [-0.3, -height],
      [-0.12, height],
      [0.12, height],
      [0.3, -height],
    ] as const) {
      const a = ((i + part) / teeth) * 2 * Math.PI;
      points.push(`${(cx + (r + out) * Math.sin(a)).toFixed(1)},${(cy - (r + out) * Math.cos(a)).toFixed(1)}`);
    }
  }
  return points.join(" ");
}

/** Where lengths stand on a bar of lengths: even counts with their place from 0 to 1. */
export function lengthsAround(counts: number[]): {
  from: number;
  to: number;
  even: number[];
  at: (n: number) => number;
} {
  const from = 2 * Math.floor((Math.min(...counts) - 4) / 2);
  const to = 2 * Math.ceil((Math.max(...counts) + 4) / 2);
  const even = Array.from({ length: (to - from) / 2 + 1 }, (_, i) => from + 2 * i);
  return { from, to, even, at: (n) => (n - from) / (to - from) };
}
