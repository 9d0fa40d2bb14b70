import { readFileSync } from "node:fs";
import { expect, it } from "vitest";

// Every pair of text and ground that the page uses must pass WCAG AA in both themes.

const css = readFileSync("src/styles.css", "utf8");

function theme(name: string): Record<string, string> {
  const block = css.split(`name: "${name}"`)[1]?.split("}")[0] ?? "";
  return Object.fromEntries(
    [...block.matchAll(/--([\w-]+):\s*(#[0-9a-f]{6})/gi)].map((m) => [m[1] as string, m[2] as string]),
  );
}

function luminance(hex: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5]
    .map((i) => Number.parseInt(hex.slice(i, i + 2), 16) / 255)
    .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

function contrast(a: string, b: string): number {
  const [hi, lo] = [luminance(a), luminance(b)].sort((x, y) => y - x) as [number, number];
  return (hi + 0.05) / (lo + 0.05);
}

const text: [string, string][] = [
  ["color-base-content", "color-base-100"],
  ["color-base-content", "color-base-200"],
  ["quiet", "color-base-100"],
  ["quiet", "color-base-200"],
  ["quiet", "paper"],
  ["color-primary-content", "color-primary"],
  ["color-neutral-content", "color-neutral"],
  ["color-accent-content", "color-accent"],
  ["frame-ink", "frame"],
  ["frame-quiet", "frame"],
  ["frame-quiet", "frame-raised"],
  ["frame-ink", "frame-raised"],
  ["color-accent", "frame"],
  ["color-error", "color-base-100"],
  ["color-error", "color-base-200"],
  ["color-error", "paper"],
  ["soon-ink", "color-base-100"],
  ["due-ink", "color-base-100"],
  ["due-ink", "paper"],
  ["color-primary", "color-base-100"],
];
const signs: [string, string][] = [
  ["color-success", "color-base-100"],
  ["color-warning", "color-base-100"],
  ["rust", "color-base-100"],
  ["color-error", "color-base-100"],
];

for (const name of ["pony-day", "pony-night"]) {
  const t = theme(name);
  it(`${name}: text has a contrast of 4.5 and signs of 3`, () => {
    for (const [pairs, least] of [
      [text, 4.5],
      [signs, 3],
    ] as const)
      for (const [ink, ground] of pairs)
        expect(contrast(t[ink] ?? "#000000", t[ground] ?? "#000000"), `${ink} on ${ground}`).toBeGreaterThanOrEqual(
          least,
        );
  });
}
