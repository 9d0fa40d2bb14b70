import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, expect, it } from "vitest";
import type { Job, StepAction } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { JobPage } from "./JobPage";
import { job, plan, step, words } from "./job-kit";
import { ReportPage } from "./ReportPage";
import { TicketPage } from "./TicketPage";

const open = (at: string) =>
  show(
    <Routes>
      <Route path="/jobs/:id" element={<JobPage />} />
      <Route path="/jobs/:id/report" element={<ReportPage />} />
      <Route path="/jobs/:id/ticket" element={<TicketPage />} />
    </Routes>,
    at,
  );

const base = {
  "GET /bikes/B-0077-R/wear-track": () => new Refused(503, "busy", "busy"),
  "GET /job-words": () => words,
  "GET /waits": () => ({ now: new Date().toISOString(), waits: [] }),
  "GET /bikes/B-0077-R": () => ({ tag: "B-0077-R", facts: {}, customer: { id: "o1", name: "Ottoline Brack" } }),
  "GET /people": () => [
    { id: "p1", name: "Mira Oxenholt", role: "mechanic" },
    { id: "p2", name: "Tobiah Marsh", role: "mechanic" },
    { id: "p3", name: "Odalys Finch", role: "counter" },
  ],
};

beforeEach(() => localStorage.clear());

it("tells the customer what was found, done and used, what comes next, and what it cost", async () => {
  serve({
    ...base,
    "GET /jobs/j1": () =>
      job({
        state: "handed-back",
        closed_at: "2026-03-03T15:00:00Z",
        closed_by: "Mira Oxenholt",
        second_by: "Tobiah Marsh",
        told: ["Chain taken off, soaked and shaken until no more dirt came out of it."],
        step_list: ["cleaner-on", "jar-refresh", "oil-wipe", "brakes-test"].map((c) =>
          step(c, { state: "done", standing: "finished" }),
        ),
        findings: [
          {
            id: "f1",
            code: "pads-worn",
            severity: "stop",
            found_at: "",
            by: "Mira",
            place: "rear",
            resolution: "owner-told",
          },
          { id: "f2", code: "tyre-cut", severity: "soon", found_at: "", by: "Mira" },
        ],
        used: [
          { kind: "oil", name: "All-weather oil", amount: 4.56, unit: "ml" },
          { kind: "gloves", name: "Gloves", amount: 2, unit: "piece" },
        ],
        plan: { ...plan, quote: { ...plan.quote, high: 9000 } },
      }),
  });
  open("/jobs/j1/report");
  const page = within((await screen.findByRole("article")) as HTMLElement);
  expect(await page.findByText("Pads below their mark, rear: do not ride it before it is put right")).toBeTruthy();
  expect(page.getByText("Tyre cut or worn: to be seen to soon")).toBeTruthy();
  expect(page.getByText("Chain taken off, soaked and shaken until no more dirt came out of it.")).toBeTruthy();
  expect(page.getByText("All-weather oil 4.6 mL")).toBeTruthy();
  expect(page.getByText(/Lubricate it again after about 170 km, and after every soaking ride/)).toBeTruthy();
  expect(page.getByText("No kitchen cleaner, and no general-purpose spray as chain lubricant.")).toBeTruthy();
  expect(page.getByText("Total").parentElement?.textContent).toBe("Total€65.00");
  expect(page.getByText(/signed second by Tobiah Marsh/)).toBeTruthy();
});

it("puts every step with its box, amounts and cautions on the ticket, and says when there is nothing yet", async () => {
  let now: Job = job({
    needs_second: true,
    step_list: [
      step("jar", {
        title: "Chain into the jar",
        amounts: [{ material: "degreaser", amount: 166.7, unit: "ml", water_ml: 83.3 }],
        wait: { code: "jar-soak", least_min: 30, most_min: 120 },
      }),
      step("brakes-test", { title: "Test both brakes", gate: true }),
    ],
  });
  serve({ ...base, "GET /jobs/j1": () => now });
  const page = open("/jobs/j1/ticket");
  expect(await screen.findByText("Chain into the jar")).toBeTruthy();
  expect(screen.getByText(/Degreaser 167 mL \+ 83 mL water/)).toBeTruthy();
  expect(screen.getByText(/jar soak 30–120 min/)).toBeTruthy();
  expect(screen.getByText("Nitrile gloves and eye protection.")).toBeTruthy();
  expect(screen.getByText("Second signature")).toBeTruthy();
  expect(screen.getByText(/come before anything here/)).toBeTruthy();
  page.unmount();
  const { plan: _, ...unplanned } = job({ state: "arrived" });
  now = unplanned;
  open("/jobs/j1/ticket");
  expect(await screen.findByText(/not planned yet/)).toBeTruthy();
});

it("pauses, hands-on over, leaves out with a reason, writes a note, settles a finding, and cancels", async () => {
  let now: Job = job({
    current: "oil",
    step_list: [
      step("read-wear", { standing: "ready", state: "open" }),
      step("oil", { standing: "underway", state: "begun", by: "Mira Oxenholt" }),
      step("axles", { standing: "blocked", gate: true, before: ["oil"] }),
    ],
    findings: [
      { id: "f1", code: "pads-worn", severity: "stop", found_at: "2026-03-03T10:00:00Z", by: "Mira Oxenholt" },
    ],
  });
  const asked = serve({
    ...base,
    "GET /jobs/j1": () => now,
    "POST /jobs/j1/steps/oil": ({ body }) => {
      if ((body as StepAction).action === "skip" && !(body as StepAction).reason)
        return new Refused(422, "invalid-input", "Why?", {
          fields: [{ path: "reason", code: "missing", message: "Say in a few words why it is left out." }],
        });
      return now;
    },
    "POST /jobs/j1/notes": ({ body }) => {
      now = {
        ...now,
        notes: [{ at: "2026-03-03T10:00:00Z", by: "Mira Oxenholt", text: (body as { text: string }).text }],
      };
      return now;
    },
    "PUT /jobs/j1/findings/f1": () => {
      now = { ...now, findings: [{ ...(now.findings[0] as Job["findings"][number]), resolution: "fixed" }] };
      return now;
    },
    "POST /jobs/j1/cancel": () =>
      new Refused(409, "chain-is-off", "The chain is off: put it on before the job is cancelled."),
  });
  open("/jobs/j1");
  fireEvent.click(await screen.findByRole("button", { name: "Pause" }));
  await waitFor(() => expect(asked.some((a) => (a.body as StepAction | null)?.action === "pause")).toBe(true));
  fireEvent.click(screen.getByRole("button", { name: "Hand over" }));
  const people = within(await screen.findByRole("dialog"));
  fireEvent.click(await people.findByRole("button", { name: "Tobiah Marsh" }));
  expect(people.queryByRole("button", { name: "Odalys Finch" })).toBeNull();
  await waitFor(() =>
    expect(asked.some((a) => JSON.stringify(a.body) === JSON.stringify({ action: "hand-over", person_id: "p2" }))).toBe(
      true,
    ),
  );

  fireEvent.click(screen.getByRole("button", { name: "Skip step" }));
  const skip = within(await screen.findByRole("dialog"));
  fireEvent.click(skip.getByRole("button", { name: "Skip step" }));
  expect(await skip.findByText("Say in a few words why it is left out.")).toBeTruthy();
  fireEvent.change(skip.getByLabelText("Why"), { target: { value: "waxed last week" } });
  fireEvent.click(skip.getByRole("button", { name: "Skip step" }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());

  fireEvent.click(screen.getByTestId("step-axles"));
  expect(await screen.findByText(/Not yet: first/)).toBeTruthy();
  expect(screen.queryByRole("button", { name: "Skip step" })).toBeNull(); // a safety check is not left out
  expect(screen.queryByTestId("main-action")).toBeNull();

  fireEvent.click(screen.getByRole("button", { name: /Note/ }));
  const note = within(await screen.findByRole("dialog"));
  fireEvent.change(note.getByLabelText("Note"), { target: { value: "saddle is hers" } });
  fireEvent.click(note.getByRole("button", { name: "Write it down" }));
  expect(await screen.findByText(/saddle is hers/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Fixed" }));
  expect(await screen.findByText("fixed")).toBeTruthy();

  fireEvent.click(screen.getByRole("button", { name: "Cancel the job" }));
  const cancel = within(await screen.findByRole("dialog"));
  fireEvent.change(cancel.getByLabelText("Why"), { target: { value: "took it home" } });
  fireEvent.click(cancel.getByRole("button", { name: "Cancel the job" }));
  expect(await cancel.findByText(/The chain is off/)).toBeTruthy();
});
