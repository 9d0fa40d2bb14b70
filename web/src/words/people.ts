import type { Person } from "../api/client";

// What people are here.

export const roleWords: Record<Person["role"], string> = {
  owner: "owner",
  mechanic: "mechanic",
  counter: "counter",
  apprentice: "apprentice",
};
