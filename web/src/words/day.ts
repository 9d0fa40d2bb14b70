import type { Floor } from "../api/client";

// The plan of the day, in words.

/** What is wrong with work that has no place on the wall, or not the right one. */
export const missWords: Record<Floor["not_placed"][number]["why"], string> = {
  "no-skill": "has no place in the plan: nobody here does it",
  "too-long": "has no place in the plan: nobody's hours are long enough for it",
  "no-place": "has no place in the plan: there is none of the place it needs",
  "no-hours": "has no place in the plan: everybody's hours are full for a week",
  "not-after": "waits for the step before, which has no place",
  window: "has no place in the plan: it would come too late after the step before",
  strained: "comes later than its wait allows: nobody is here in time",
};
