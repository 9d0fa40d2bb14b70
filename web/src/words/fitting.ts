import type { FittingCheck, Joint } from "../api/client";

// What is fitted, and what is looked at after it.

export const jointWords: Record<Joint, string> = {
  "joining-link": "joining link",
  "joining-pin": "joining pin",
  "press-fit-pin": "press-fit master pin",
};

/** What is checked after joining, with the caution that stands at the step. */
export const checkWords: Record<FittingCheck, { name: string; how: string }> = {
  "joint-seated": { name: "Joining link seated", how: "both sides level" },
  "joint-loaded": {
    name: "Joining link load-tested",
    how: "on the top run, rear brake held, pedal pressed hard; a chain that opens throws the rider",
  },
  "no-stiff-link": { name: "No stiff link", how: "back-pedal by hand and watch it pass the jockey wheels" },
  routing: { name: "Routed right", how: "on both jockey wheels and inside the cage tab" },
  "runs-free": { name: "Runs free", how: "turned by hand" },
  "gears-indexed": { name: "Gears indexed", how: "through the range" },
  "tension-set": { name: "Tension set", how: "8 to 12 mm up and down at mid-run, at the tightest point of the turn" },
  "axle-tight": { name: "Axle tight", how: "to the part's own marking" },
  "brakes-tested": { name: "Brakes tested", how: "both, before the bike leaves the stand" },
};

export const partWords: Record<string, string> = {
  sprockets: "Cassette",
  rings: "Chainrings",
  pulleys: "Jockey wheels",
};

export const spentWords: Record<string, string> = {
  "new-each-time": "this shop fits a new one when it is opened",
  "used-up": "spent: a new one when it is opened",
};
