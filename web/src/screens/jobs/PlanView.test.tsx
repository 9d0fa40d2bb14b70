import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, expect, it } from "vitest";
import type { Job, JobOptions } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { aftercare } from "./customer";
import { JobPage } from "./JobPage";
import { job, plan, step, words } from "./job-kit";
import { amountWords, causesFound, hours, quoteWords } from "./jobs";

const options: JobOptions = {
  cleaning: {
    lubricant_on: "oil",
    lubricant: "all-weather",
    opens: "joining-link",
    unknown: [],
    choice: {
      route: "soak",
      chain_route: "soak",
      parts_route: "soak",
      order_joining_link: false,
      best_fit: null,
      if_chain_goes: null,
      ready_min: 240,
      lubricant_next: "oil",
      reasons: [{ code: "grade" }, { code: "complaint" }],
      cautions: [],
      routes: [],
      wash: "bucket",
      washes: [
        { wash: "bucket", attended_min: 25, against: [], refused: false, cautions: [] },
        { wash: "hose", attended_min: 20, against: [], refused: false, cautions: [] },
      ],
    },
  },
  route: "soak",
  options: [
    { route: "soak", refused: [], against: [], misses: ["behind-crank"], plan, cautions: [], baths: [] },
    {
      route: "bath",
      refused: [],
      against: [],
      misses: ["ring-backs"],
      plan: {
        ...plan,
        route: "bath",
        lubricant_next: "drip-wax",
        quote: { ...plan.quote, total: 4000, high: 6500, high_route: "soak" },
      },
      cautions: [],
      baths: [{ kind: "ultrasonic-tank", code: "spent", message: "Blue tank: the bath is spent: renew it" }],
    },
    { route: "bare", refused: ["no-joining-link"], against: [], misses: [], cautions: [], baths: [] },
  ],
  lubricants: {
    choices: [
      {
        family: "wet-oil",
        refused: false,
        for: ["suits-the-rides"],
        against: [],
        every_hard_km: 300,
        first_ride_min: 10,
        better_ride_min: 10,
        ready_min: 60,
        amount: { drops: 114, coats: 1, ml: 4.56 },
        cost_per_1000_km: 7536,
        cost_lubricant: 228,
        cost_labour: 3600,
        cost_wear: 2250,
      },
    ],
  },
};

beforeEach(() => localStorage.clear());

it("lays the routes side by side, asks why another is picked, and says what is refused", async () => {
  const arrived = job({ state: "arrived", step_list: [], steps: 0 });
  const { plan: _, route: __, ...bare } = arrived;
  let refuse = true;
  let planned: Job | undefined;
  const asked = serve({
    "GET /jobs/j1": () => planned ?? bare,
    "GET /jobs/j1/options": () => options,
    "GET /job-words": () => words,
    "GET /rules": () => new Refused(503, "busy", "busy"),
    "GET /waits": () => ({ now: new Date().toISOString(), waits: [] }),
    "PUT /jobs/j1/plan": () => {
      if (refuse)
        return new Refused(422, "invalid-input", "Say why.", {
          fields: [{ path: "reason", code: "missing", message: "Say in a few words why." }],
        });
      planned = job({ current: "floor", step_list: [step("floor", { standing: "ready" })] });
      return planned;
    },
  });
  show(
    <Routes>
      <Route path="/jobs/:id" element={<JobPage />} />
    </Routes>,
    "/jobs/j1",
  );
  expect(await screen.findByText("Soak is recommended")).toBeTruthy();
  expect(screen.getByText("What the customer hears or feels is deeper than the grade says.")).toBeTruthy();
  const bath = within(screen.getByTestId("way-bath"));
  expect(bath.getByText("61 min")).toBeTruthy();
  expect(bath.getByText("€40.00")).toBeTruthy();
  expect(bath.getByText("€65.00")).toBeTruthy();
  expect(bath.getByText("Drip wax goes on, not oil: that needs bare metal.")).toBeTruthy();
  expect(bath.getByText("Blue tank: the bath is spent: renew it.")).toBeTruthy();
  expect(within(screen.getByTestId("way-bare")).queryByRole("button")).toBeNull();
  fireEvent.click(bath.getByRole("button", { name: "Plan clip-on cleaner" }));
  const dialog = within(await screen.findByRole("dialog"));
  fireEvent.change(dialog.getByLabelText("Agreed with the customer"), { target: { value: "forty" } });
  fireEvent.click(dialog.getByRole("button", { name: "Plan it" }));
  expect(await dialog.findByText(/is no price: write one such as/)).toBeTruthy();
  fireEvent.change(dialog.getByLabelText("Agreed with the customer"), { target: { value: "42.50" } });
  fireEvent.click(dialog.getByRole("button", { name: "Plan it" }));
  expect(await dialog.findByText("Say in a few words why.")).toBeTruthy();
  refuse = false;
  fireEvent.change(dialog.getByLabelText("Why not as recommended"), { target: { value: "no time today" } });
  fireEvent.click(dialog.getByRole("button", { name: "Plan it" }));
  expect(await screen.findByTestId("step-title")).toBeTruthy();
  expect(asked.filter((a) => a.method === "PUT").at(-1)?.body).toEqual({
    version: 2,
    route: "bath",
    wash: "bucket",
    reason: "no time today",
    agreed: 4250,
  });
});

it("leaves what was agreed alone, and says how the new quote stands to it", async () => {
  const agreed = { price: 6000, at: "2026-03-02T09:10:00Z", by: "Odalys Finch" };
  const asked = serve({
    "GET /jobs/j1": () => job({ state: "arrived", step_list: [], agreed }),
    "GET /jobs/j1/options": () => options,
    "GET /job-words": () => words,
    "PUT /jobs/j1/plan": () => job({ current: "floor", step_list: [step("floor", { standing: "ready" })] }),
  });
  show(
    <Routes>
      <Route path="/jobs/:id" element={<JobPage />} />
    </Routes>,
    "/jobs/j1",
  );
  fireEvent.click(await screen.findByRole("button", { name: "Plan soak" }));
  const dialog = within(await screen.findByRole("dialog"));
  const stands = dialog.getByTestId("agreed").textContent;
  expect(stands).toContain("€60.00");
  expect(stands).toContain("Odalys Finch");
  expect(stands).toContain("€5.00 more than agreed");
  expect(dialog.queryByLabelText("Agreed with the customer")).toBeNull();
  fireEvent.click(dialog.getByRole("button", { name: "Plan it" }));
  await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
  expect(asked.find((a) => a.method === "PUT")?.body).not.toHaveProperty("agreed");
});

it("says amounts, prices and what was done in plain words", () => {
  expect(amountWords({ material: "degreaser", amount: 166.7, unit: "ml", water_ml: 83.3 })).toBe(
    "167 mL + 83 mL water",
  );
  expect(amountWords({ material: "oil", amount: 4.56, unit: "ml" })).toBe("4.6 mL");
  expect(amountWords({ material: "gloves", amount: 1, unit: "piece" })).toBe("1");
  expect([45, 90, 125].map(hours)).toEqual(["45 min", "1 h 30 min", "2 h 5 min"]);
  expect(quoteWords({ ...plan.quote, high: 9000 })).toBe("€65.00 to €90.00");
  const checked = step("check-squeaks", {
    title: "It squeaks",
    state: "done",
    reason: "dry-joints",
    causes: [{ code: "dry-joints", says: "Dry rollers", leads: "Relubricate" }],
  });
  expect(causesFound(job({ step_list: [checked, step("check-rust", { causes: checked.causes ?? [] })] }))).toEqual([
    "It squeaks: dry rollers",
  ]);
  expect(aftercare("drip-wax")[1]).toContain("wax protects little");
});
