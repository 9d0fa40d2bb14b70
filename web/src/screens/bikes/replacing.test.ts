import { expect, it } from "vitest";
import type { ReplacementPlan, StockItem } from "../../api/client";
import { linkOf, noLink } from "./LinkChoice";
import { linkFor, startReplacing } from "./replacing";

const item = (id: string, kind: StockItem["kind"], more: Partial<StockItem["facts"]> = {}): StockItem => ({
  id,
  kind,
  facts: { name: id, sprockets: 12, quantity: 1, low_mark: 0, ...more },
  low: false,
  retired: false,
  version: 1,
});

it("takes no joining link from the shelf where the chain's box holds one", () => {
  const plan: ReplacementPlan = {
    verdict: "replace",
    advice: { chain: true, sprockets: false, ride_test: true, look: true },
    grease: "keep-inside",
    chains: [item("with", "chain", { has_joining_link: true }), item("without", "chain")],
    links: [item("link", "joining-link")],
    kept: [],
    link_school: "new-each-time",
    missing: [],
    derailleur: true,
    later: [],
    checks: [],
  };
  const start = startReplacing(plan);
  expect(linkOf(start.link)).toEqual({ from_box: true });
  const bare = linkFor(plan, "without", start.link);
  expect(linkOf(bare)).toEqual({ stock_item_id: "link" });
  expect(linkOf(linkFor(plan, "with", bare))).toEqual({ from_box: true });
  // What was chosen otherwise stays, whichever chain it is.
  for (const from of ["old", "other", "pin"] as const)
    for (const chain of ["with", "without"]) expect(linkFor(plan, chain, { ...noLink, from }).from).toBe(from);
  expect(linkFor({ ...plan, links: [] }, "without", start.link)).toMatchObject({ from: "shelf", stock: "" });
});
