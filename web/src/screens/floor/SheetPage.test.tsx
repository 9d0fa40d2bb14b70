import { fireEvent, screen, within } from "@testing-library/react";
import { beforeEach, expect, it } from "vitest";
import type { Sheet } from "../../api/client";
import { serve, show } from "../../test-kit";
import { at } from "./floor-kit";
import { SheetPage } from "./SheetPage";

beforeEach(() => localStorage.clear());

const oil = { material: "oil", amount: 4, unit: "ml" } as const;
const sheet: Sheet = {
  day: "2026-05-06",
  made_at: at("16:40"),
  people: [{ name: "Mira Oxenholt", hours: [{ from: at("08:30", "2026-05-06"), until: at("12:30", "2026-05-06") }] }],
  jobs: [
    {
      job: "j1",
      tag: "B-0142-K",
      bike: "Pellowe Ketch ivory",
      customer: { id: "o1", name: "Tamsin Overcliffe" },
      first_at: at("08:40", "2026-05-06"),
      by: "Mira Oxenholt",
      promised_at: at("12:00", "2026-05-06"),
      guess: true,
      tools: ["soft cloth"],
      amounts: [oil, { material: "chain", amount: 1, unit: "piece", sprockets: 11 }],
      places: ["tub"],
    },
  ],
  heats: [{ at: at("09:20", "2026-05-06"), place: "pot", tag: "B-0142-K", title: "Melt the wax" }],
  fluids: [oil],
  order: [
    {
      material: "chain",
      amount: 2,
      unit: "piece",
      sprockets: 11,
      have: 1,
      needed_at: at("08:40", "2026-05-06"),
      tag: "B-0142-K",
    },
  ],
};

it("says what is to be had ready, in order of time, and keeps what was ticked off", async () => {
  const asked = serve({ "GET /floor/sheet": () => sheet });
  const page = show(<SheetPage />, "/today/sheet?day=2026-05-06");
  const job = (await screen.findByTestId("sheet-job")).textContent ?? "";
  expect(job).toMatch(/08:40.*Tamsin Overcliffe.*Mira Oxenholt; promised.*12:00; a guess/);
  expect(job).toMatch(/oil 4.*mL, .*11-speed.*, tub, soft cloth/);
  const order = screen.getByTestId("order").textContent;
  expect(order).toMatch(/11-speed.*2.*planned, 1.*there; needed.*08:40 for B-0142-K/);
  expect(screen.getByText(/melt the wax/).textContent).toContain("09:20");
  expect(screen.getByText("Mira Oxenholt 08:30–12:30")).toBeTruthy();
  fireEvent.click(within(screen.getByTestId("order")).getByRole("checkbox"));
  page.unmount();
  show(<SheetPage />, "/today/sheet?day=2026-05-06");
  await screen.findByTestId("order");
  expect(screen.getAllByRole<HTMLInputElement>("checkbox").map((c) => c.checked)).toEqual([true, false, false, false]);
  expect(asked.length).toBeGreaterThan(0);
});

it("says so where nothing is planned and nobody works", async () => {
  serve({ "GET /floor/sheet": () => ({ ...sheet, people: [], jobs: [], heats: [], fluids: [], order: [] }) });
  show(<SheetPage />, "/today/sheet");
  expect(await screen.findByText("Nothing is planned for that day.")).toBeTruthy();
  expect(screen.getByText("Nobody works on that day.")).toBeTruthy();
  expect(screen.queryByTestId("order")).toBeNull();
});
