import type { Instrument } from "../api/client";

// What measuring tools are called.

export const kindWords: Record<Instrument["kind"], string> = {
  ruler: "ruler",
  "whole-chain": "hung or laid flat",
  "caliper-inside": "inside jaws",
  "gauge-percent": "percent",
  "gauge-dropin": "drop-in",
  "pull-off": "a look",
};

/** What each kind of tool is, where it is chosen. */
export const kindLong: Record<Instrument["kind"], string> = {
  ruler: "Ruler, pin to pin",
  "whole-chain": "Whole chain, hung or laid straight",
  "caliper-inside": "Caliper, inside jaws between rollers",
  "gauge-percent": "Gauge that reads percent",
  "gauge-dropin": "Gauge with marks that drop in",
  "pull-off": "Chain pulled off the chainring",
};
