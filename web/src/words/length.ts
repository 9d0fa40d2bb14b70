import type { LengthAnswer } from "../api/client";

// How a chain is sized, in words.

export const methodWords: Record<LengthAnswer["method"], string> = {
  wrap: "Wrapped, largest to largest",
  formula: "Workshop formula",
  geometry: "By geometry",
  maker: "The maker's figure",
  "old-chain": "Old chain, counted",
};

/** Why a method says what it says. */
export const methodWhy: Record<LengthAnswer["method"], string> = {
  wrap: "round the largest chainring and sprocket, up to whole pairs, and the overlap",
  formula: "in inches and quarters of teeth; the added inch is in it",
  geometry: "round chainring and sprocket, up to what can be closed",
  maker: "comes before all others where it reaches round",
  "old-chain": "right only if it was right and the gears are the same; never laid side by side, for it has grown",
};

export const lengthWarnings: Record<LengthAnswer["warnings"][number]["code"], string> = {
  "box-too-short": "The chain in the box is too short.",
  "maker-too-short":
    "The maker's figure does not reach round the largest chainring and sprocket: a chain that short tears the derailleur off.",
  "odd-count": "An odd count cannot be closed without a half-link.",
  "over-capacity": "The cage cannot take up the slack of smallest to smallest.",
  "no-overlap":
    "The maker's figure leaves the cage nothing to swing with in largest to largest: check the figure, and the cage.",
  "no-length-fits": "No chain length fits this cage with these gears.",
  "tight-big-to-big": "Largest to largest is tight with this length: shifting into it tears the derailleur off.",
};
