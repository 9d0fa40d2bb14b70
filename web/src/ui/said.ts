import { Problem, Unreachable } from "../api/client";

/**
 * What is said of an error: the server's sentence, worded for a mechanic, or that it cannot be reached. Anything else is
 * a fault of ours in a program's words, which are for the console and for nobody at a stand.
 */
export function sayError(error: unknown): string {
  if (error instanceof Problem || error instanceof Unreachable) return error.message;
  console.error(error);
  return "Something went wrong on this screen. What you typed is still here; try again.";
}
