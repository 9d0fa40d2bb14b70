import { expect, it } from "vitest";
import type { BikeFacts } from "../../api/client";
import { settle } from "../../ui/shop";
import { emptyDraft, fromDraft, isDraft, toDraft } from "./draft";

it("gives back the facts it was made of", () => {
  const facts: BikeFacts = {
    make: "Wharfinger",
    drivetrain_kind: "derailleur",
    sprocket_count: 12,
    sprocket_teeth: [11, 42],
    ring_teeth: [34, 50],
    chainstay_mm: 410.5,
    clutch: false,
    mix: { fair: 0.655, dusty: 0, wet: 0.345, mud: 0, salt: 0 },
    limit_pct: 0.8,
    notes: "Heavy:\ntwo people.",
  };
  expect(fromDraft(toDraft(facts))).toEqual({ facts, faults: {} });
  expect(fromDraft(emptyDraft)).toEqual({ facts: {}, faults: {} });
  expect(isDraft(toDraft(facts))).toBe(true);
  expect(isDraft({ make: "only" })).toBe(false);
});

it("reads numbers and teeth as people write them, and says what is none", () => {
  const { facts } = fromDraft({ ...emptyDraft, chainstay_mm: "410,5", ring_teeth: "34/50", sprocket_teeth: "11–42" });
  expect(facts).toEqual({ chainstay_mm: 410.5, ring_teeth: [34, 50], sprocket_teeth: [11, 42] });
  const { faults } = fromDraft({ ...emptyDraft, chain_links: "many", ring_teeth: "big", fair: "most" });
  expect(Object.keys(faults).sort()).toEqual(["facts.chain_links", "facts.mix", "facts.ring_teeth"]);
});

it("takes the week in the shop's unit", () => {
  settle({ distance: "mi", length: "in" });
  const { facts } = fromDraft({ ...emptyDraft, weekly_km: "60", chainstay_mm: "17 in" });
  expect(facts).toEqual({ weekly_km: 96.56064, chainstay_mm: 431.8 });
  expect([toDraft(facts).weekly_km, toDraft(facts).chainstay_mm]).toEqual(["60", "17"]);
  expect(fromDraft(toDraft(facts), facts).facts).toEqual(facts); // what is shown, typed back, changes nothing
  expect(fromDraft({ ...emptyDraft, weekly_km: "far" }).faults["facts.weekly_km"]).toContain("whole miles");
  settle({});
});
