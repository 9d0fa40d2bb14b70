import { expect, it } from "vitest";
import type { WaitView } from "../api/client";
import { waitWords } from "../words/waits";
import { calls, clockOf, waitState } from "./waits";

const at = (minutes: number) => new Date(Date.UTC(2026, 2, 3, 12, minutes)).toISOString();
const wait = (least: number, most?: number): WaitView => ({
  id: "w",
  what: "jar-soak",
  began_at: at(0),
  least_at: at(least),
  ...(most === undefined ? {} : { most_at: at(most) }),
});
const now = (minutes: number) => Date.parse(at(minutes));

it("runs, is over and calls until somebody takes it, and says when it is too late", () => {
  expect(waitState(wait(30, 120), now(10))).toEqual({ kind: "runs", left: 20 * 60_000, share: 2 / 3 });
  expect(calls(waitState(wait(30, 120), now(10)))).toBe(false);
  expect(waitState(wait(30, 120), now(30))).toEqual({ kind: "over", late: 90 * 60_000 });
  expect(calls(waitState(wait(30), now(30)))).toBe(true);
  expect(waitState(wait(30), now(3000))).toEqual({ kind: "over", late: undefined });
  expect(waitState(wait(30, 120), now(125))).toEqual({ kind: "late", by: 5 * 60_000 });
});

it("is a clock where there is only a latest time, and warns before it", () => {
  const bare = waitState(wait(0, 60), now(15));
  expect(bare).toEqual({ kind: "clock", left: 45 * 60_000, share: 0.75 });
  expect(calls(bare)).toBe(false);
  expect(calls(waitState(wait(0, 60), now(56)))).toBe(true);
});

it("says times as a person reads them", () => {
  expect([0, 999, 61_000, 760_000, 3_600_000, 7_505_000].map(clockOf)).toEqual([
    "0:00",
    "0:01",
    "1:01",
    "12:40",
    "1:00:00",
    "2:05:05",
  ]);
  expect([waitWords("jar-soak"), waitWords("glue")]).toEqual(["jar soak", "glue"]);
});
