import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { dayOf, momentsOf } from "./days";
import { ago, clock, dayAndTime, shortDay, whenWords } from "./format";
import { settle } from "./shop";
import { readWhen, typedDay, typedWhen, whenInFull } from "./when";

const shop = (zone: string, locale: string) => settle({ zone, locale });
afterEach(() => settle({}));

// A Tuesday, a quarter past ten in Berlin.
const now = Date.parse("2026-11-24T09:15:00Z");
const iso = (text: string, ask: "day" | "moment" = "moment", ahead = true) => {
  const w = readWhen(text, ask, ahead, now);
  return w.is === "moment" ? new Date(w.at).toISOString().slice(0, 16) : w.is === "day" ? w.day : w.is;
};

describe("what is typed for a day and a time", () => {
  beforeEach(() => shop("Europe/Berlin", "de-DE"));

  it.each([
    ["fri 16", "2026-11-27T15:00"],
    ["Friday 16:30", "2026-11-27T15:30"],
    ["fri 4 pm", "2026-11-27T15:00"],
    ["tue 16", "2026-11-24T15:00"], // later today
    ["tue 9", "2026-12-01T08:00"], // over: the next
    ["tomorrow 9:30", "2026-11-25T08:30"],
    ["today at 17:00", "2026-11-24T16:00"],
    ["16:00", "2026-11-24T15:00"],
    ["9", "2026-11-25T08:00"], // over today
    ["29.11. 16", "2026-11-29T15:00"],
    ["29.11.2026, 16:00", "2026-11-29T15:00"],
    ["29.11.26 16.30", "2026-11-29T15:30"],
    ["29/11 16", "2026-11-29T15:00"],
    ["29 Nov 4:30pm", "2026-11-29T15:30"],
    ["Nov 29, 2026, 4:30 PM", "2026-11-29T15:30"],
    ["fri 27.11. 16", "2026-11-27T15:00"],
    ["3.1. 12", "2027-01-03T11:00"], // the next such
    ["2026-11-29T16:30", "2026-11-29T15:30"],
    ["noon", "2026-11-24T11:00"],
    ["tomorrow 0930", "2026-11-25T08:30"],
    ["in 2 h", "2026-11-24T11:15"],
    ["45 min", "2026-11-24T10:00"],
    ["", "nothing"],
    ["fri", "none"],
    ["soon", "none"],
    ["31.2. 16", "none"],
    ["25:00", "none"],
    ["13 pm", "none"],
  ])("%s", (text, at) => expect(iso(text)).toBe(at));

  it.each([
    ["29.11.", true, "2026-11-29"],
    ["29.11.", false, "2025-11-29"], // of what was: the last such
    ["yesterday", false, "2026-11-23"],
    ["mon", false, "2026-11-23"],
    ["29.2.", true, "2028-02-29"],
    ["29.2.2026", true, "none"],
    ["29.11. 16", true, "none"],
  ])("a day: %s", (text, ahead, day) => expect(iso(text, "day", ahead)).toBe(day));

  it("asks which of two, and says what is left out", () => {
    expect(iso("29.3.2026 2:30")).toBe("none");
    const twice = readWhen("25.10.2026 2:30", "moment", true, now);
    expect(twice).toEqual({
      is: "twice",
      first: Date.parse("2026-10-25T00:30Z"),
      second: Date.parse("2026-10-25T01:30Z"),
    });
    expect(iso("25.10.2026 2:30 (second)")).toBe("2026-10-25T01:30");
    expect(momentsOf("2026-03-29", 150)).toEqual([]);
  });

  it("reads slashes as the region writes them", () => {
    shop("America/Los_Angeles", "en-US");
    expect(iso("12/4 4 pm")).toBe("2026-12-05T00:00");
    shop("Europe/London", "en-GB");
    expect(iso("4/12 16")).toBe("2026-12-04T16:00");
  });
});

it("holds a moment so that it is that moment when it is typed back, wherever the shop is", () => {
  for (const zone of ["Europe/Berlin", "America/Los_Angeles", "Asia/Riyadh", "Australia/Lord_Howe", "Asia/Kathmandu"])
    for (const locale of ["de-DE", "en-GB", "en-US", "en-IE", "fr-FR", "sv-SE", "nl-NL", "pl-PL", "en-CA", "es-ES"]) {
      shop(zone, locale);
      for (let at = Date.parse("2026-10-24T20:07:00Z"); at < Date.parse("2026-11-02T00:00Z"); at += 131 * 60_000) {
        const back = readWhen(typedWhen(at), "moment", true, now);
        expect(back, `${zone} ${locale} ${typedWhen(at)}`).toEqual({ is: "moment", at });
        const day = dayOf(at);
        expect(readWhen(typedDay(day), "day", true, now)).toEqual({ is: "day", day });
      }
    }
});

it("says moments by the shop's clock and in its region's order, whatever the device is set to", () => {
  const at = "2026-11-29T23:30:00Z";
  shop("Europe/Berlin", "de-DE");
  expect([clock(at), dayAndTime(at), whenWords(at, Date.parse("2026-11-29T20:00Z"))]).toEqual([
    "00:30",
    "30 Nov 2026, 00:30",
    "tomorrow at 00:30",
  ]);
  expect(ago(at, Date.parse("2026-11-30T10:00Z"))).toBe("today");
  shop("America/Los_Angeles", "en-US");
  expect([clock(at), dayAndTime(at), shortDay("2026-11-24", now)]).toEqual([
    "3:30 PM",
    "Nov 29, 2026, 3:30 PM",
    "Nov 24",
  ]);
  const full = readWhen("11/29/2026 4:30 pm", "moment", true, now);
  expect(whenInFull(full)).toBe("Sunday, November 29, 2026, 4:30 PM");
});
