import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Bath, WasteRow } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { BathsPlace } from "./BathsPlace";
import { FluidsPlace } from "./FluidsPlace";
import { WastePlace } from "./WastePlace";

const waits = { "GET /waits": () => ({ now: new Date().toISOString(), waits: [] }) };

const bath = (part: Partial<Bath>): Bath => ({
  id: "b1",
  kind: "solvent-jar",
  facts: { name: "Solvent jar", fluid: "film solvent", volume_ml: 1000, clean_only: false },
  filled_at: "2026-03-01T10:00:00Z",
  points: 10,
  left: 0,
  settled: 0,
  settles_more: true,
  dirty: true,
  ...part,
});

it("says which bath is spent, lets a jar settle once that was confirmed, and marks the probe as simulated", async () => {
  let jar = bath({});
  const pot = bath({
    id: "b2",
    kind: "wax-pot",
    facts: { name: "Wax pot", fluid: "wax", volume_ml: 500, clean_only: false },
    points: 40,
    left: 38,
    grams_left: 486,
    settles_more: false,
    pot: {
      celsius: 96.2,
      state: "ready",
      least_c: 85,
      wanted_c: 95,
      most_c: 110,
      alarm_c: 130,
      simulated: true,
      heating_since: "2026-03-01T10:00:00Z",
    },
  });
  const asked = serve({
    ...waits,
    "GET /baths": () => [jar, pot],
    "POST /baths/b1": () => {
      jar = bath({ left: 6, settled: 1, settling_to: new Date(Date.now() + 86_400_000).toISOString() });
      return jar;
    },
    "POST /baths/b2": () => new Refused(409, "busy", "Somebody is at it."),
  });
  show(<BathsPlace />);
  expect(await screen.findByText("Used up: change the fluid")).toBeTruthy();
  const pots = within(screen.getByTestId("pot"));
  expect(pots.getByText("96 °C")).toBeTruthy();
  expect(pots.getByText("simulated probe")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Let it settle" }));
  expect(asked.some((a) => a.method === "POST")).toBe(false);
  const sure = within(await screen.findByRole("dialog"));
  expect(sure.getByText(/never to drain or ground/)).toBeTruthy();
  fireEvent.click(sure.getByRole("button", { name: "Let it settle" }));
  expect(await screen.findByText("6 of 10 points left")).toBeTruthy();
  expect(screen.getByText(/Settles until/)).toBeTruthy();
  fireEvent.click(pots.getByRole("button", { name: "Heat off" }));
  expect(await screen.findByText("Somebody is at it.")).toBeTruthy();
});

it("lists what is low with what the forecasts ask for, and refuses petrol at its field", async () => {
  const asked = serve({
    ...waits,
    "GET /materials": () => [
      {
        id: "m1",
        kind: "oil",
        unit: "ml",
        low: true,
        version: 1,
        facts: { name: "All-weather oil", quantity: 40, low_mark: 50, card: {} },
      },
      {
        id: "m2",
        kind: "rags",
        unit: "piece",
        low: false,
        version: 1,
        facts: { name: "Rags", quantity: 60, low_mark: 20, card: {} },
      },
    ],
    "GET /stock": () => [],
    "GET /stock/needs": () => [{ sprockets: 11, bikes: [], chains: 0, links: 0, short: 2 }],
    "GET /rules": () => new Refused(503, "busy", "busy"),
    "POST /materials": () =>
      new Refused(422, "invalid-input", "Not this.", {
        fields: [
          {
            path: "facts.name",
            code: "never-used",
            message: "petrol is not supported as a solvent: its vapour explodes.",
          },
        ],
      }),
  });
  show(<FluidsPlace />);
  await waitFor(() => expect(screen.getAllByTestId("order").length).toBe(2));
  expect(screen.getAllByTestId("order").map((o) => o.textContent)).toEqual([
    "All-weather oil40 mL left",
    "11-speed chains2 short within 30 days",
  ]);
  fireEvent.click(screen.getByRole("button", { name: /Add to stock/ }));
  const form = within(await screen.findByRole("dialog"));
  fireEvent.change(form.getByLabelText("Name"), { target: { value: "White petrol" } });
  fireEvent.change(form.getByLabelText("You have"), { target: { value: "lots" } });
  fireEvent.click(form.getByRole("button", { name: "Add to stock" }));
  expect(await form.findByText("“lots” is not a number.")).toBeTruthy();
  expect(asked.some((a) => a.path === "/materials" && a.method === "POST")).toBe(false);
  fireEvent.change(form.getByLabelText("You have"), { target: { value: "500" } });
  fireEvent.change(form.getByLabelText("Parts of product"), { target: { value: "1" } });
  fireEvent.click(form.getByRole("button", { name: "Add to stock" }));
  expect(await form.findByText(/vapour explodes/)).toBeTruthy();
  expect(asked.filter((a) => a.path === "/materials").at(-1)?.body).toEqual({
    kind: "degreaser",
    facts: { name: "White petrol", quantity: 500, low_mark: 0, card: { product_parts: 1 } },
  });
});

it("sums the waste of a year, and adds a line to it", async () => {
  let rows: WasteRow[] = [];
  serve({
    ...waits,
    "GET /waste": () => rows,
    "POST /waste": ({ body }) => {
      rows = [
        {
          ...(body as { kind: "rags"; amount: number }),
          id: "w1",
          unit: "kg",
          at: "2026-03-03T10:00:00Z",
          by: "Mira Oxenholt",
        },
      ];
      return rows;
    },
  });
  show(<WastePlace />);
  expect(await screen.findByText("Nothing was thrown away yet.")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Rags" }));
  fireEvent.click(screen.getByRole("button", { name: "Note it" }));
  expect(await screen.findByText("About how much?")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("About"), { target: { value: "1.5" } });
  fireEvent.click(screen.getByRole("button", { name: "Note it" }));
  expect((await screen.findByTestId("waste")).textContent).toContain("1.5 kg");
});
