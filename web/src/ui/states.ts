import type { State } from "../api/client";

/** What a state is called beside its sign. */
export const stateWords: Record<State, string> = { fresh: "fresh", soon: "soon", due: "due", overdue: "overdue" };
