import { screen } from "@testing-library/react";
import { expect, it } from "vitest";
import type { JobSummary } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { FloorPlace } from "./FloorPlace";

const soon = new Date(Date.now() + 3_600_000).toISOString();
const past = new Date(Date.now() - 3_600_000).toISOString();
const job = (id: string, part: Partial<JobSummary>): JobSummary => ({
  id,
  tag: "B-0077-R",
  owner: { id: "o", name: "Ottoline Brack" },
  bike: "Brinewell Coble oyster",
  state: "planned",
  created_at: past,
  done: 3,
  steps: 10,
  underway: [],
  open_checks: 2,
  stops: 0,
  left_min: 100,
  ready: false,
  ...part,
});
const waits = { "GET /waits": () => ({ now: new Date().toISOString(), waits: [] }) };

it("says of each job what can be done next, who is at it, what it waits for, and what is late", async () => {
  const mira = { id: "p", name: "Mira Oxenholt", role: "mechanic" as const };
  serve({
    ...waits,
    "GET /jobs": () => [
      job("ready", { ready: true, open_checks: 0, done: 10, left_min: 0, promised_at: soon }),
      job("next", {
        route: "soak",
        next: { code: "rings-brush", title: "Brush the rings", minutes: 3 },
        promised_at: past,
      }),
      job("at", {
        route: "bath",
        underway: [{ code: "x", title: "White rag test", minutes: 1, person: mira, since: past }],
      }),
      job("held", { route: "bare", held_until: new Date(Date.now() + 300_000).toISOString() }),
      job("stopped", { stops: 1 }),
      job("arrived", { state: "arrived", steps: 0, done: 0 }),
    ],
  });
  show(<FloorPlace />);
  const rows = (await screen.findAllByTestId("job")).map((r) => r.textContent ?? "");
  expect(rows[0]).toContain("Every check is made");
  expect(rows[1]).toContain("Soak: next Brush the rings");
  expect(rows[1]).toContain("late since");
  expect(rows[1]).toContain("1 h 40 min of hands left");
  expect(rows[2]).toContain("Bath: Mira O. at “White rag test”");
  expect(rows[3]).toMatch(/Bare: waits (5:0[01]|4:5\d)/);
  expect(rows[4]).toContain("Something found holds it");
  expect(rows[5]).toContain("Plan it: routes side by side");
  expect(screen.getByRole("region", { name: "Ready to hand back" }).textContent).toContain("Ready to hand back 1");
  expect(screen.getByRole("region", { name: "In work" }).textContent).toContain("In work 4");
});

it("says what will be here, and what went wrong", async () => {
  let broken = true;
  serve({
    ...waits,
    "GET /jobs": () =>
      broken ? new Refused(500, "internal", "Something went wrong on our side.", { request_id: "q7" }) : [],
  });
  const page = show(<FloorPlace />);
  expect(await screen.findByText(/Number for the log: q7/)).toBeTruthy();
  broken = false;
  page.unmount();
  show(<FloorPlace />);
  expect(await screen.findByText("No bike is in the workshop.")).toBeTruthy();
  expect(screen.getByRole("link", { name: "Find the bike" })).toBeTruthy();
});
