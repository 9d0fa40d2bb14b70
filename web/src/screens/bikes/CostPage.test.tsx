import { screen } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { expect, it } from "vitest";
import type { Bike, BikeCosts } from "../../api/client";
import { serve, show } from "../../test-kit";
import { CostPage } from "./CostPage";

const bike: Bike = {
  tag: "B-0001-A",
  customer: { id: "o", name: "Ottoline Brack" },
  facts: { make: "Brinewell" },
  archived: false,
  version: 1,
  added_at: "2026-05-04T12:00:00Z",
};

const strategy = (limit_pct: number, mid: number): BikeCosts["strategies"][number] => ({
  limit_pct,
  run_out: false,
  in_force: limit_pct === 0.5,
  cheapest: limit_pct === 0.75,
  life_km: { p10: 1200, p50: 1840, p90: 2600 },
  chains_per_sprocket_set: limit_pct === 0.5 ? 4 : 2.5,
  per_1000_km: { low: mid * 0.8, mid, high: mid * 1.3 },
  per_year: { low: 1, mid: 24_799, high: 3 },
  chain_share: mid * 0.5,
  sprockets_share: mid * 0.4,
  rings_share: mid * 0.1,
});

const costs: BikeCosts = {
  currency: "EUR",
  class: "wide-chain",
  prices: {
    class: "wide-chain",
    chain: 2400,
    sprockets: 4200,
    rings: 5200,
    labour_chain: 1200,
    labour_sprockets: 1500,
    labour_rings: 0,
  },
  readings: 3,
  hard_per_km: 1.6,
  run_out_refused: true,
  missing: [],
  strategies: [strategy(0.5, 5259), strategy(0.75, 4906)],
};

const open = (answer: BikeCosts) => {
  serve({ "GET /bikes/B-0001-A": () => bike, "GET /bikes/B-0001-A/costs": () => answer });
  show(
    <Routes>
      <Route path="/bikes/:tag/cost" element={<CostPage />} />
    </Routes>,
    "/bikes/B-0001-A/cost",
  );
};

it("sets the strategies side by side, with the range and the caution", async () => {
  open(costs);
  const half = await screen.findByRole("region", { name: "Change at 0.5 %" });
  expect(half.textContent).toContain("€53per 1000 km, from €42 to €68");
  expect(half.textContent).toContain("what this bike is held to");
  expect(half.textContent).toContain(
    "A chain lasts about 1,800 km, between 1,200 and 2,600. One cassette lasts 4 chains.",
  );
  expect(half.textContent).toContain("About €248 a year");
  expect(screen.getByRole("region", { name: "Change at 0.75 %" }).textContent).toContain("least money");
  expect(screen.getByText(/throws the rider/)).toBeTruthy(); // running out is not offered, and why
  expect(screen.getByText(/Worked out from 3 readings/)).toBeTruthy();
});

it("says what is missing, and where it is entered", async () => {
  open({ ...costs, strategies: [], missing: ["chain-fitted", "prices"] });
  expect(await screen.findByText(/When this chain was fitted/)).toBeTruthy();
  expect(screen.getByRole("link", { name: "Enter prices" }).getAttribute("href")).toBe("/settings/prices");
});
