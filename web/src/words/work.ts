import type { JobPlan, LubeFamily, LubeReason, MaterialCode, StepLubricant } from "../api/client";
import { routeWords } from "./cleaning";

type Family = LubeFamily | "oil";

// What a job draws and costs, in words.

const materials: Record<MaterialCode | "chain" | "sprockets", string> = {
  shampoo: "Bike shampoo",
  degreaser: "Degreaser",
  "film-solvent": "Film solvent",
  alcohol: "Alcohol",
  "citric-acid": "Citric acid",
  bicarbonate: "Bicarbonate",
  oil: "Chain oil",
  "drip-wax": "Drip wax",
  "immersion-wax": "Immersion wax",
  "displacing-spray": "Displacing spray",
  grease: "Grease",
  threadlocker: "Threadlocker",
  rags: "Rags",
  gloves: "Gloves",
  "joining-link": "Joining link",
  protectant: "Frame protectant",
  chain: "New chain",
  sprockets: "Cassette",
};

/** What is drawn or fitted; what the shop stocks under a name of its own says it itself. */
export const materialWords = (kind: string) =>
  kind in materials ? materials[kind as keyof typeof materials] : kind.replaceAll("-", " ");

export const materialKinds = Object.keys(materials).filter(
  (k) => k !== "joining-link" && k !== "chain" && k !== "sprockets",
);

export const familyWords: Record<Family, string> = {
  "wet-oil": "Wet oil",
  "dry-oil": "Dry oil",
  "all-weather": "All-weather oil",
  "drip-wax": "Drip wax",
  "immersion-wax": "Immersion wax",
  oil: "Oil",
};

/** What goes on a chain, with the bottle and where it stands. */
export function lubricantLine(l: StepLubricant): string {
  const family = familyWords[l.family].toLowerCase();
  const bottle = [l.bottle?.toLowerCase() === family ? "" : l.bottle, l.place].filter(Boolean).join(", ");
  return bottle ? `${family} (${bottle})` : family;
}

const lubeWhys: Record<LubeReason, string> = {
  "suits-the-rides": "suits how it is ridden",
  "stays-clean": "stays clean",
  "longest-chain-life": "longest chain life",
  "stays-with-its-family": "it runs on it now",
  "cheapest-over-distance": "cheapest over the distance",
  "washes-off-in-rain": "washes off in rain",
  "gathers-dirt": "gathers dirt",
  "weak-against-rust-here": "weak against rust in this air",
  "needs-an-owner-who-dries-it": "needs a customer who dries it",
  "not-dry-in-time": "not dry before the next ride",
  "needs-bare-metal": "needs the chain bare first",
  "cannot-be-bared": "the chain cannot be taken off",
  "after-a-strip-of-the-old": "after a strip of the old one",
  "wants-care-often": "wants care more often than this customer gives",
};

export const lubeWhy = (code: LubeReason) => lubeWhys[code];

export const routeName = (route: JobPlan["route"]) => routeWords[route].name;

export const severityWords = { note: "Noted", soon: "Soon", stop: "Holds the bike" } as const;
