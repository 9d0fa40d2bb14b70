import type { JobPlan } from "../../api/client";

// What a customer reads of a job, here by itself: their page fetches no more of the shop's than it needs.

/** What to do after each ride, by what is on the chain. */
export function aftercare(next: JobPlan["lubricant_next"]): string[] {
  const rain =
    next === "oil"
      ? "After rain: dry the chain, displace the water, oil it again."
      : "After rain: dry the chain the same day; wax protects little against rust.";
  return [
    "Wipe the chain after each ride.",
    rain,
    "Store it dry. A little lubricant often beats much.",
    "No kitchen cleaner, and no general-purpose spray as chain lubricant.",
    "Come back when it squeaks, feels gritty, blackens a finger or skips.",
  ];
}
