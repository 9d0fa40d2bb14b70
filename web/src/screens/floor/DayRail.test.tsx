import { act, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import type { FloorTry } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { DayRail } from "./DayRail";
import { at, floor } from "./floor-kit";
import { type Go, railOf } from "./rail";

const rail = () => railOf(floor(), "2026-05-05", Date.parse(at("10:00")));

/** The rail's day is 1000 px wide from 100 px on, so that ten hours are 100 px each. */
beforeEach(() => {
  vi.spyOn(HTMLElement.prototype, "getBoundingClientRect").mockReturnValue(new DOMRect(100, 0, 1000, 600));
});
afterEach(() => vi.restoreAllMocks());

function held() {
  const did: { dropped: FloorTry[]; opened: Go[]; promised: string[] } = {
    dropped: [],
    opened: [],
    promised: [],
  };
  show(
    <DayRail
      rail={rail()}
      open={(g) => did.opened.push(g)}
      promise={(job) => did.promised.push(job)}
      drop={(t) => did.dropped.push(t)}
    />,
  );
  return did;
}

const free = { moves: 0, pushed: [], saved: [], later_min: 0, kept: true, late_min: 0 };

it("says what a dragged promise would cost, to the quarter of an hour, and drops it there", async () => {
  const tries: FloorTry[] = [];
  serve({
    "POST /floor/try": ({ body }) => {
      tries.push(body as FloorTry);
      return { ...free, kept: false, late_min: 35 };
    },
  });
  const did = held();
  const flag = screen.getByRole("button", { name: "Promise of B-0142-K" });
  fireEvent.pointerDown(flag, { button: 0, clientX: 900, clientY: 20 });
  fireEvent.pointerMove(flag, { clientX: 903, clientY: 20 }); // a finger is never still
  expect(screen.queryByTestId("cost")).toBeNull();
  fireEvent.pointerMove(flag, { clientX: 652, clientY: 24 });
  expect(screen.getByTestId("cost").textContent).toContain("by 13:30");
  expect(await screen.findByText("It would be 35 min late. Nothing else moves.")).toBeTruthy();
  fireEvent.pointerMove(flag, { clientX: 655, clientY: 24 }); // the same quarter: nothing is asked again
  fireEvent.pointerUp(flag);
  fireEvent.click(flag);
  const dropped = { job: "j1", promised_at: at("13:30") };
  expect([did.dropped, did.promised, tries]).toEqual([[dropped], [], [dropped]]);
  expect(screen.queryByTestId("cost")).toBeNull();
});

it("drags work to somebody else, and leaves it where it was when it is let go over its own lane", async () => {
  serve({ "POST /floor/try": () => new Refused(409, "no-skill", "They do not do this kind of work here.") });
  const did = held();
  const lanes = document.querySelectorAll<HTMLElement>("[data-person]");
  const lane = (person: string) => [...lanes].find((l) => l.dataset.person === person) as HTMLElement;
  let over = "p2";
  document.elementsFromPoint = () => [lane(over)];
  const oil = screen.getByRole("button", { name: /0142.*Oil/ });
  fireEvent.pointerDown(oil, { button: 0, clientX: 700, clientY: 120 });
  fireEvent.pointerMove(oil, { clientX: 700, clientY: 60 });
  expect(screen.getByTestId("cost").textContent).toContain("for Posy Peake");
  expect(await screen.findByText("They do not do this kind of work here.")).toBeTruthy();
  over = "p1";
  fireEvent.pointerMove(oil, { clientX: 700, clientY: 118 });
  expect(screen.queryByTestId("cost")).toBeNull();
  fireEvent.pointerUp(oil);
  expect(did.dropped).toEqual([]);

  fireEvent.pointerDown(oil, { button: 0, clientX: 700, clientY: 120 });
  over = "p2";
  fireEvent.pointerMove(oil, { clientX: 700, clientY: 60 });
  fireEvent.pointerUp(oil);
  fireEvent.click(oil);
  expect(did.dropped).toEqual([{ job: "j1", step: "oil", person: "p2" }]);
});

it("lets a finger scroll the rail over work, and lifts what it rests on", () => {
  vi.useFakeTimers();
  try {
    serve({ "POST /floor/try": () => free });
    const did = held();
    const lane = document.querySelector<HTMLElement>('[data-person="p2"]') as HTMLElement;
    document.elementsFromPoint = () => [lane];
    const oil = screen.getByRole("button", { name: /0142.*Oil/ });
    const touch = { button: 0, pointerType: "touch" };
    fireEvent.pointerDown(oil, { ...touch, clientX: 700, clientY: 120 });
    fireEvent.pointerMove(oil, { ...touch, clientX: 640, clientY: 60 });
    act(() => vi.runAllTimers()); // it was on its way
    fireEvent.pointerMove(oil, { ...touch, clientX: 600, clientY: 60 });
    expect([screen.queryByTestId("cost"), oil.dataset.lifted]).toEqual([null, "false"]);
    expect(fireEvent.touchMove(oil), "the rail scrolls").toBe(true);
    fireEvent.pointerCancel(oil, touch);

    fireEvent.pointerDown(oil, { ...touch, clientX: 700, clientY: 120 });
    fireEvent.pointerMove(oil, { ...touch, clientX: 703, clientY: 121 });
    act(() => vi.runAllTimers());
    expect(oil.dataset.lifted).toBe("true");
    expect(fireEvent.touchMove(oil), "and does not while it is carried").toBe(false);
    fireEvent.pointerMove(oil, { ...touch, clientX: 700, clientY: 60 });
    expect(screen.getByTestId("cost").textContent).toContain("for Posy Peake");
    fireEvent.pointerUp(oil, touch);
    fireEvent.click(oil);
    expect([did.dropped, did.opened]).toEqual([[{ job: "j1", step: "oil", person: "p2" }], []]);
    expect([oil.dataset.lifted, fireEvent.touchMove(oil)]).toEqual(["false", true]);
  } finally {
    vi.useRealTimers();
  }
});

it("opens what is tapped, and drags nothing that is done or under way", () => {
  serve({});
  const did = held();
  fireEvent.click(screen.getByRole("button", { name: /0142.*Oil/ }));
  const begun = screen.getByRole("button", { name: /0077.*Brush/ });
  fireEvent.pointerDown(begun, { button: 0, clientX: 300, clientY: 60 });
  fireEvent.pointerMove(begun, { clientX: 500, clientY: 120 });
  fireEvent.pointerUp(begun);
  fireEvent.click(begun);
  expect(did.opened.map((g) => g.first.step)).toEqual(["oil", "agitate"]);
  expect(did.dropped).toEqual([]);

  const flag = screen.getByRole("button", { name: "Promise of B-0077-R" });
  fireEvent.pointerDown(flag, { button: 0, clientX: 900, clientY: 20 });
  fireEvent.pointerUp(flag);
  fireEvent.click(flag);
  fireEvent.pointerDown(flag, { button: 0, clientX: 900, clientY: 20 });
  fireEvent.pointerMove(flag, { clientX: 600, clientY: 20 });
  fireEvent.pointerCancel(flag); // the system took the finger for something else
  expect([did.promised, did.dropped]).toEqual([["j2"], []]);
  expect(screen.queryByTestId("cost")).toBeNull();
  // Where now is, is told; so is what waits where.
  expect(screen.getByTestId("rail").textContent).toContain("10:00");
  expect(screen.getByText("There is room in each all day.")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: /Places/ }));
  expect(screen.getAllByTestId("stay").map((s) => s.title)).toEqual(["B-0142-K ", "B-0077-R Chain into the jar"]);
});
