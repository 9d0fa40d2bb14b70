import type { EventCode, State } from "../api/client";

// What is due and what happened to a bike, in words.

export const taskWords: Record<string, string> = {
  relubricate: "Lubricate the chain",
  "clean-on-bike": "Clean the drivetrain",
  "deep-clean": "Deep clean, off the bike",
  strip: "Full strip-down and service",
  wash: "Wash",
  "read-wear": "Measure chain wear",
  "replace-chain": "Replace the chain",
  "look-at-teeth": "Check cassette, chainrings, jockey wheels",
  pivots: "Oil pivots and cables",
  brakes: "Check the brakes",
  contacts: "Motor contacts",
};

export const titleOf = (t: { code: string; title?: string | undefined }) =>
  taskWords[t.code] ?? t.title ?? t.code.replaceAll("-", " ");

const eventWords: Record<EventCode, string> = {
  "soaked-ride": "Heavy rain ride",
  squeak: "It squeaks",
  wash: "Washed",
  mud: "Ride in mud",
  "water-crossing": "Stream crossing",
  "black-finger": "Leaves black on a finger",
  "grit-heard": "Sounds gritty",
  "change-to-wax": "Changes to wax",
  "stored-wet": "Stored wet",
  "dirty-frame": "Came in dirty",
  visit: "In the workshop",
  "verdict-replace": "Read as worn out",
  skip: "It skips",
  "new-chain": "New chain",
  contamination: "Oil on a brake",
};

export const eventName = (code: string) => eventWords[code as EventCode] ?? code.replaceAll("-", " ");

export const messageWords = {
  "": "Nothing",
  draft: "Draft",
  queued: "On its way",
  delivered: "Delivered",
  "not-reached": "Reached nobody",
  withdrawn: "Taken back",
} as const;

/** What a state is called beside its sign. */
export const stateWords: Record<State, string> = { fresh: "fresh", soon: "soon", due: "due", overdue: "overdue" };
