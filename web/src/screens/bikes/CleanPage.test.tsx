import { fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, expect, it, vi } from "vitest";
import type { CleaningPlan, Condition } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { CleanPage } from "./CleanPage";
import { minutes } from "./cleaning";

/** Draws pictures as they are: this page has no canvas that does. */
function drawAsIs(): void {
  let drawn: Blob | null = null;
  vi.stubGlobal("createImageBitmap", async (file: File) => ({ width: 1, height: 1, close: () => {}, file }));
  const canvas = HTMLCanvasElement.prototype;
  const pen = { fillRect: () => {}, drawImage: (p: { file: File }) => (drawn = p.file) };
  vi.spyOn(canvas, "getContext").mockImplementation((() => pen) as never);
  vi.spyOn(canvas, "toBlob").mockImplementation((done) => done(drawn));
}

const option = {
  attended_min: 60,
  wait_least_min: 60,
  ready_min: 240,
  wait_most_min: 1440,
  misses: ["behind-crank"],
  against: [],
  refused: false,
  cautions: [],
};

const plan = (q: Condition): CleaningPlan => ({
  lubricant_on: q.lubricant_on ?? "oil",
  lubricant: "all-weather",
  opens: "",
  unknown: ["brakes"],
  choice: {
    route: "soak",
    chain_route: "soak",
    parts_route: "strip",
    order_joining_link: false,
    best_fit: null,
    if_chain_goes: null,
    ready_min: 240,
    lubricant_next: "oil",
    reasons: [{ code: "grade" }],
    cautions: ["gloves", "waste"],
    routes: [
      { ...option, route: "soak" },
      { ...option, route: "bare", refused: true, against: ["no-joining-link"] },
    ],
    wash: "hose",
    washes: [{ wash: "hose", attended_min: 20, against: [], refused: false, cautions: [] }],
  },
});

const open = () =>
  show(
    <Routes>
      <Route path="/bikes/:tag/clean" element={<CleanPage />} />
    </Routes>,
    "/bikes/B-0001-A/clean",
  );

beforeEach(() => localStorage.clear());

it("asks nothing before somebody looked, then says the route, why, and the cautions, and keeps what was seen", async () => {
  let away = false;
  const asked = serve({
    "GET /bikes/B-0001-A": () => ({
      tag: "B-0001-A",
      facts: { make: "Brinewell" },
      customer: { id: "o", name: "Brack" },
    }),
    "POST /bikes/B-0001-A/cleaning-plan": ({ body }) =>
      away ? new Refused(503, "busy", "The server is busy.") : plan(body as Condition),
  });
  const page = open();
  expect(await screen.findByText("First, look.")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: /Grit heard/ }));
  expect(asked.some((a) => a.method === "POST")).toBe(false);
  fireEvent.click(screen.getByRole("button", { name: /Caked everywhere/ }));
  expect((await screen.findByTestId("route")).textContent).toBe("Soak");
  expect(screen.getByText(/Cassette, chainrings and jockey wheels/).textContent).toContain("Full strip-down");
  expect(screen.getAllByTestId("caution").map((c) => c.textContent)).toEqual([
    "Nitrile gloves and eye protection.",
    "Spent fluid into its container, never to drain or ground.",
  ]);
  expect(screen.getByTestId("route-soak").textContent).toContain("60 min by hand, 60 min to 24 h waiting");
  expect(screen.getByTestId("route-bare").textContent).toContain("none on the shelf");
  expect(screen.getByText(/does not say what brakes it has/)).toBeTruthy();
  expect(screen.getByRole("button", { name: "Measure it first" })).toBeTruthy();

  away = true;
  fireEvent.click(screen.getByRole("button", { name: "Not known" }));
  expect(await screen.findByText("The server is busy.", {}, { timeout: 3000 })).toBeTruthy();
  away = false;
  fireEvent.click(screen.getByRole("button", { name: "Try again" }));
  expect(await screen.findByTestId("route")).toBeTruthy();
  await waitFor(() =>
    expect(asked.at(-1)?.body).toEqual({ drivetrain_grade: 3, frame_grade: 4, lubricant_on: "unknown" }),
  );
  page.unmount();
  open();
  expect(await screen.findByTestId("route")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Start again" }));
  expect(screen.getByText("First, look.")).toBeTruthy();
});

it("says the price of what is done at the counter where it is asked for, after two grades, and asks the rest only on demand", async () => {
  let goes = false;
  let away = false;
  const quote = { total: 1800, currency: "EUR", lines: [], unpriced: ["joining-link"] };
  serve({
    "GET /bikes/B-0001-A": () => ({
      tag: "B-0001-A",
      facts: { make: "Brinewell" },
      customer: { id: "o", name: "Brack" },
    }),
    "GET /job-words": () => ({ complaints: [{ code: "skips", says: "It skips" }], findings: [] }),
    "POST /bikes/B-0001-A/cleaning-plan": ({ body }) => {
      if (away) return new Refused(503, "busy", "The server is busy.");
      const answer = plan(body as Condition);
      if (!(body as Condition).express || goes) return answer;
      return {
        ...answer,
        express: [
          { route: "wipe", hands_min: 21, ready_min: 24, fits: true, quote },
          { route: "tray", hands_min: 49, ready_min: 53, fits: false, quote: { ...quote, unpriced: [] } },
        ],
      };
    },
  });
  open();
  const express = await screen.findByRole("checkbox", { name: "Express, at the counter" });
  const asksLittle = () => screen.getByRole("button", { name: "It skips" }).closest("details");
  expect(await screen.findByRole("button", { name: "It skips" })).toBeTruthy();
  expect(asksLittle()).toBeNull();
  fireEvent.click(express);
  expect(asksLittle()?.open, "the rest is there, closed").toBe(false);
  fireEvent.click(screen.getByRole("button", { name: /Grit heard/ }));
  expect(screen.queryByTestId("express")).toBeNull();
  fireEvent.click(screen.getByRole("button", { name: /Caked everywhere/ }));
  const offers = await screen.findByTestId("express");
  const [wipe, tray] = [...offers.querySelectorAll("li")].map((o) => o.textContent);
  expect(wipe).toMatch(/€18\.00.*21 min by hand, 24 min from door to door; not priced: joining link/);
  expect(tray).toContain("53 min from door to door: too long to be called express");
  expect(screen.getByLabelText("What was seen").contains(offers), "in sight of its tick").toBe(true);

  away = true;
  fireEvent.click(screen.getByRole("button", { name: /Black finger/ }));
  expect(await screen.findAllByText("The server is busy.", {}, { timeout: 3000 }), "said once").toHaveLength(1);
  [away, goes] = [false, true];
  fireEvent.click(screen.getByRole("button", { name: "Try again" }));
  expect(await screen.findByText(/book it in without express/)).toBeTruthy();
  fireEvent.click(express);
  expect(screen.queryByTestId("express")).toBeNull();
});

it("says minutes as a person does", () => {
  expect([minutes(5), minutes(60, 1440), minutes(120), minutes(150)]).toEqual([
    "5 min",
    "60 min to 24 h",
    "2 h",
    "2 h 30 min",
  ]);
});

it("takes photos with the bike, and keeps those that were not sent until they are", async () => {
  vi.stubGlobal(
    "URL",
    Object.assign(URL, { createObjectURL: () => `blob:${Math.random()}`, revokeObjectURL: () => {} }),
  );
  drawAsIs();
  let full = true;
  const asked = serve({
    "GET /bikes/B-0001-A": () => ({
      tag: "B-0001-A",
      facts: { make: "Brinewell" },
      customer: { id: "o", name: "Brack" },
    }),
    "GET /bikes/B-0001-A/jobs": () => [],
    "GET /job-words": () => ({ complaints: [], findings: [] }),
    "POST /bikes/B-0001-A/cleaning-plan": ({ body }) => plan(body as Condition),
    "POST /bikes/B-0001-A/jobs": () => ({ id: "j1", state: "arrived" }),
    "POST /jobs/j1/photos": ({ body }) =>
      full && body === "second" ? new Refused(409, "too-many-photos", "A job keeps 40 photos at most.") : {},
  });
  open();
  const input = await screen.findByLabelText("Photo of the bike");
  for (const name of ["first", "third", "second"])
    fireEvent.change(input, { target: { files: [new File([JSON.stringify(name)], name)] } });
  await waitFor(() => expect(screen.getAllByRole("img", { name: /^Taken/ })).toHaveLength(3));
  fireEvent.click(screen.getByRole("button", { name: "Leave out photo 2" }));
  fireEvent.click(screen.getByRole("button", { name: /Grit heard/ }));
  fireEvent.click(screen.getByRole("button", { name: /Caked everywhere/ }));
  fireEvent.click(await screen.findByRole("button", { name: /Book the bike in/ }));
  expect(await screen.findByText("The bike is booked in, and one photo is not kept yet.")).toBeTruthy();
  expect(screen.getByText("A job keeps 40 photos at most.")).toBeTruthy();
  full = false;
  fireEvent.click(screen.getByRole("button", { name: "Try again" }));
  await waitFor(() => expect(screen.getByLabelText("address").textContent).toBe("/jobs/j1"));
  expect(asked.filter((a) => a.path === "/jobs/j1/photos").map((a) => a.body)).toEqual(["first", "second", "second"]);
});
