import { describe, expect, it } from "vitest";
import type { Instrument } from "../../api/client";
import { type Action, type Bench, emptyBench, next, nextEmpty, question } from "./state";

const ruler: Instrument = {
  id: "r",
  name: "Steel rule",
  kind: "ruler",
  zero_offset_pct: 0,
  spreads: false,
  compares: false,
  needs_count: false,
  zero_check_due: false,
  retired: false,
  version: 1,
};
const dropin: Instrument = { ...ruler, id: "d", kind: "gauge-dropin", compares: true, marks_pct: [0.5, 0.75] };

const play = (actions: Action[], from: Bench = emptyBench(3)) => actions.reduce(next, from);

describe("the bench", () => {
  it("asks for what is typed, place by place, and leaves out the empty ones", () => {
    const b = play([
      { kind: "typed", text: "306.4" },
      { kind: "place", at: 3 },
      { kind: "typed", text: "12 1/16 in" },
      { kind: "links", links: "24" },
      { kind: "finding", code: "noise" },
      { kind: "drivetrain", change: { kind: "derailleur", sprockets: "99" } },
    ]);
    expect(question(b, ruler)).toEqual({
      instrument_id: "r",
      links: 24,
      entries: [
        { place: 1, text: "306.4" },
        { place: 3, text: "12 1/16 in" },
      ],
      findings: ["noise"],
      drivetrain: { kind: "derailleur", motor: "", carry: false }, // 99 sprockets are no sprockets
    });
    expect(nextEmpty(b)).toBe(2);
  });

  it("asks for marks of a drop-in gauge", () => {
    const b = play([
      { kind: "marked", mark: 0.5, dropsIn: true },
      { kind: "marked", mark: 0.75, dropsIn: false },
    ]);
    expect(question(b, dropin)?.entries).toEqual([
      {
        place: 1,
        marks: [
          { mark_pct: 0.5, drops_in: true },
          { mark_pct: 0.75, drops_in: false },
        ],
      },
    ]);
  });

  it("puts a walk-in's readings on the bike that is chosen, but never one bike's on another", () => {
    const typed = play([{ kind: "typed", text: "306.4" }]);
    const on = next(typed, { kind: "bike", tag: "B-0001-C" });
    expect(on.entries[0]?.text).toBe("306.4");
    const other = next(on, { kind: "bike", tag: "B-0002-E" });
    expect(other.entries.every((e) => e.text === "")).toBe(true);
    expect(other.tag).toBe("B-0002-E");
  });

  it("drops what was typed for one tool when another is taken up", () => {
    const b = play([
      { kind: "typed", text: "306.4" },
      { kind: "links", links: "20" },
      { kind: "instrument", id: "d" },
    ]);
    expect(question(b, dropin)?.entries).toEqual([]);
    expect(b.links).toBe("");
    expect(next(b, { kind: "put-back" }).entries[0]?.text).toBe("306.4"); // it was only laid aside
  });

  it("is another write once it was refused or cleared, and the same while it is only sent again", () => {
    const b = play([{ kind: "typed", text: "306.4" }]);
    expect(next(b, { kind: "place", at: 2 }).key).toBe(b.key);
    expect(next(b, { kind: "refused" }).key).not.toBe(b.key);
    expect(next(b, { kind: "cleared", places: 3 }).key).not.toBe(b.key);
  });

  it("gives back what was cleared, until work goes on", () => {
    const typed = play([{ kind: "typed", text: "306.4" }]);
    const cleared = next(typed, { kind: "cleared", places: 3 });
    expect(cleared.entries[0]?.text).toBe("");
    expect(next(cleared, { kind: "put-back" })).toEqual(typed);
    expect(next(cleared, { kind: "typed", text: "1" }).cleared).toBeUndefined();
  });

  it("is emptied by its own recording and by no other", () => {
    const typed = play([{ kind: "typed", text: "306.4" }]);
    expect(next(typed, { kind: "recorded", key: typed.key, places: 3 }).entries[0]?.text).toBe("");
    expect(next(typed, { kind: "recorded", key: "another", places: 3 })).toBe(typed);
  });

  it("keeps between one and eight places", () => {
    const many = play(Array.from({ length: 12 }, (): Action => ({ kind: "more-places" })));
    expect(many.entries).toHaveLength(8);
    expect(many.at).toBe(8);
    const few = play(
      Array.from({ length: 12 }, (): Action => ({ kind: "fewer-places" })),
      many,
    );
    expect(few.entries).toHaveLength(1);
    expect(few.at).toBe(1);
  });
});

it("goes back to where its bike was put on it from, once", () => {
  const b = next(emptyBench(3), { kind: "bike", tag: "B-0001-C", back: "/jobs/j1" });
  expect(b.back).toBe("/jobs/j1");
  expect(next(b, { kind: "recorded", key: b.key, places: 3 }).back).toBeUndefined();
  expect(next(b, { kind: "bike", tag: "B-0001-C" }).back).toBeUndefined();
});
