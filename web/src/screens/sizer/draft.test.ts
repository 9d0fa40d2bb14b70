import { expect, it } from "vitest";
import type { BikeFacts } from "../../api/client";
import { linkOf, noLink } from "../bikes/LinkChoice";
import { differs, emptyDraft, fromBike, isDraft, toQuestion, withDraft } from "./draft";

const facts: BikeFacts = {
  make: "Skerrow",
  drivetrain_kind: "derailleur",
  ring_teeth: [32],
  sprocket_teeth: [10, 52],
  chainstay_mm: 440,
  chainstay_growth_mm: 8,
  cage_mm: 93,
  chain_links: 118,
};

it("takes a bike's facts and gives them back as they were", () => {
  const d = fromBike("B-0001-A", facts);
  expect(isDraft(d)).toBe(true);
  expect(differs(facts, d)).toBe(false);
  expect(toQuestion(d)).toEqual({
    question: {
      tag: "B-0001-A",
      kind: "derailleur",
      rings: [32],
      sprockets: [10, 52],
      chainstay_mm: 440,
      growth_mm: 8,
      cage_mm: 93,
      old_links: 118,
      joint: "joining-link",
    },
    faults: {},
  });
  const changed = { ...d, chainstay_mm: "445,5", old_links: "116" };
  expect(differs(facts, changed)).toBe(true);
  expect(withDraft(facts, changed)).toEqual({ ...facts, chainstay_mm: 445.5 }); // a count of links is the chain's, not the bike's
});

it("keeps what was typed of the new chain when the same bike comes again", () => {
  const d = { ...fromBike("B-0001-A", facts), box_links: "126", joint: "joining-pin" as const };
  expect(fromBike("B-0001-A", facts, d).box_links).toBe("126");
  expect(fromBike("B-0002-B", facts, d)).toMatchObject({ box_links: "", joint: "joining-link" });
});

it("names what is no number or no list, and asks for a half-link only where one may be", () => {
  const bad = {
    ...emptyDraft,
    kind: "derailleur",
    rings: "big",
    chainstay_mm: "long",
    box_links: "116.5",
    half_link: true,
  };
  const read = toQuestion(bad);
  expect(Object.keys(read.faults)).toEqual(["rings", "chainstay_mm", "box_links"]);
  expect(read.question.half_link).toBeUndefined();
  expect(toQuestion({ ...bad, kind: "hub-gear" }).question.half_link).toBe(true);
  // What forbids a tensioner comes over from the bike's record.
  const back = fromBike("B-0001-A", { kind: "fixed-gear", brakes: "coaster", drivetrain_kind: "single-speed" });
  expect(toQuestion(back).question).toMatchObject({ fixed: true, coaster: true });
});

it("says which joining link closes a chain", () => {
  expect(linkOf({ ...noLink, stock: "s1" })).toEqual({ stock_item_id: "s1" });
  expect(linkOf({ ...noLink, from: "old", sound: true })).toEqual({ reuse: true, sound: true });
  expect(linkOf({ ...noLink, from: "box" })).toEqual({ from_box: true });
  expect(linkOf({ ...noLink, from: "other", what: " drawer ", sprockets: "12" })).toEqual({
    what: "drawer",
    sprockets: 12,
  });
  expect(linkOf({ ...noLink, from: "other", sprockets: "?" })).toEqual({ what: "" });
  expect(linkOf({ ...noLink, from: "pin" })).toBeUndefined();
});
