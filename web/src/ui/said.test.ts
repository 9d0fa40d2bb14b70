import { expect, it, vi } from "vitest";
import { Problem, Unreachable } from "../api/client";
import { sayError } from "./said";

it("says what the server words, and no program's words", () => {
  const log = vi.spyOn(console, "error").mockImplementation(() => {});
  const words = (e: unknown) => sayError(e);
  expect(words(new Problem({ type: "about:blank", title: "The bike is here.", status: 409, code: "job-open" }))).toBe(
    "The bike is here.",
  );
  expect(words(new Unreachable())).toMatch(/cannot be reached/);
  for (const e of [
    new TypeError("Cannot read properties of undefined (reading 'mid')"),
    new SyntaxError("Unexpected token < in JSON at position 0"),
    new DOMException("The operation was aborted.", "AbortError"),
    "boom",
    undefined,
  ])
    expect(words(e)).toBe("Something went wrong on this screen. What you typed is still here; try again.");
  expect(log).toHaveBeenCalledTimes(5);
  log.mockRestore();
});
