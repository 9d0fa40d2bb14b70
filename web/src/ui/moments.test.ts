import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { waitsOptions } from "../api/queries";
import { askAt, watchMoments } from "./moments";

const noon = Date.parse("2026-03-02T12:00:00Z");
const at = (s: number) => new Date(noon + s * 1000).toISOString();

beforeEach(() => vi.useFakeTimers({ now: noon }));
afterEach(() => vi.useRealTimers());

it("asks just after the first moment by the server's clock, and patiently where the server still says the same", () => {
  expect(askAt([undefined, "never", at(60), at(20)], noon, 0)).toBe(noon + 20_050);
  expect(askAt([at(20)], noon, 5000)).toBe(noon + 15_050); // this device is five seconds behind
  expect(askAt([at(20)], noon + 20_100, 0)).toBe(noon + 21_000);
  expect(askAt([], noon, 0)).toBe(Number.POSITIVE_INFINITY);
});

it("asks again what is on the screen when its moment comes, over and over until it is answered anew, and nothing else", async () => {
  const client = new QueryClient({
    defaultOptions: { queries: { retry: false, networkMode: "always", staleTime: 1e9 } },
  });
  client.setQueryData(waitsOptions.queryKey, { waits: [], behind: 0 });
  const asked = { job: 0, other: 0, hidden: 0 };
  let away = false;
  const watched = (key: keyof typeof asked) => ({
    queryKey: [key],
    queryFn: async () => {
      asked[key]++;
      if (away) throw new Error("away");
      return { until: Date.now() < noon + 30_000 ? at(30) : undefined };
    },
    meta: key === "other" ? {} : { until: (d: { until: string | undefined }) => [d.until] },
  });
  const shown = [watched("job"), watched("other")].map((o) => new QueryObserver(client, o).subscribe(() => {}));
  new QueryObserver(client, watched("hidden")).subscribe(() => {})(); // was on the screen, and is not
  const leave = watchMoments(client);
  await vi.advanceTimersByTimeAsync(29_000);
  expect(asked).toEqual({ job: 1, other: 1, hidden: 1 });
  away = true;
  await vi.advanceTimersByTimeAsync(4000);
  const tries = asked.job;
  expect(tries).toBeGreaterThan(2);
  expect(tries).toBeLessThan(7); // again and again, and never in a storm
  away = false;
  await vi.advanceTimersByTimeAsync(60_000);
  expect(asked).toEqual({ job: tries + 1, other: 1, hidden: 1 });
  leave();
  for (const stop of shown) stop();
});
