import { act, fireEvent, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { Problem } from "../api/client";
import { show } from "../test-kit";
import { Slips } from "./Slips";
import { endOffers, holdBack, offerBack } from "./undo";

afterEach(() => vi.useRealTimers());

const begun = new Problem({
  type: "about:blank",
  title: "This can no longer be taken back: “Rinse” was begun since.",
  status: 409,
  code: "not-taken-back",
});

it("offers ten seconds to take back what was done, says how many are left, and why where it fails", async () => {
  vi.useFakeTimers();
  show(<Slips />);
  let back = 0;
  act(() => offerBack("Left out: Measure chain wear", async () => void back++));
  expect(screen.getByRole("button", { name: /Take it back/ }).textContent).toContain("10 s");
  await act(() => vi.advanceTimersByTimeAsync(6000));
  fireEvent.click(screen.getByRole("button", { name: /Take it back/ }));
  await act(() => vi.advanceTimersByTimeAsync(0));
  expect([back, screen.queryByTestId("slip")]).toEqual([1, null]);

  act(() => offerBack("Ended: cleaner on", () => Promise.reject(begun)));
  fireEvent.click(screen.getByRole("button", { name: /Take it back/ }));
  await act(() => vi.advanceTimersByTimeAsync(60_000));
  expect(screen.getByTestId("slip").textContent, "a failure stays until it was read").toContain("was begun since");
  fireEvent.click(screen.getByRole("button", { name: "Close" }));

  act(() => offerBack("Cancelled: the job of B-0001-C", async () => void back++));
  await act(() => vi.advanceTimersByTimeAsync(10_000));
  expect([back, screen.queryByTestId("slip")]).toEqual([1, null]);
});

it("offers nothing about a job that is closed, and goes on with what is about others", () => {
  show(<Slips />);
  act(() => {
    for (const about of ["j1", "j1/wash", "j1-other", undefined])
      offerBack(`Done: ${about}`, () => Promise.reject(begun), about);
    holdBack("Voided: 24 Nov", async () => {});
    endOffers("j1");
  });
  expect(screen.getAllByTestId("slip").map((s) => s.textContent?.replace(/Take it back.*/, ""))).toEqual([
    "Done: j1-other",
    "Done: undefined",
    "Voided: 24 Nov in 10 s",
  ]);
});

it("does what cannot be undone when the time is over, or when the page is left, and only once", async () => {
  vi.useFakeTimers();
  show(<Slips />);
  let struck = 0;
  const strike = () => act(() => holdBack("Voided: 24 Nov", async () => void struck++));
  strike();
  fireEvent.click(screen.getByRole("button", { name: /Take it back/ }));
  await act(() => vi.advanceTimersByTimeAsync(20_000));
  expect(struck).toBe(0);
  strike();
  expect(screen.getByTestId("slip").textContent).toContain("in 10 s");
  await act(() => vi.advanceTimersByTimeAsync(10_000));
  expect([struck, screen.queryByTestId("slip")]).toEqual([1, null]);
  strike();
  fireEvent(window, new Event("pagehide"));
  await act(() => vi.advanceTimersByTimeAsync(20_000));
  expect(struck).toBe(2);
});
