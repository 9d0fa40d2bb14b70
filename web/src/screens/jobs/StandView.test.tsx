import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, expect, it } from "vitest";
import type { Job, JobPart, NewFinding, StepAction } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { JobPage } from "./JobPage";
import { job, plan, step, words } from "./job-kit";

const open = () =>
  show(
    <Routes>
      <Route path="/jobs/:id" element={<JobPage />} />
    </Routes>,
    "/jobs/j1",
  );

const base = {
  "GET /job-words": () => words,
  "GET /waits": () => ({ now: new Date().toISOString(), waits: [] }),
  "GET /people": () => [
    { id: "p1", name: "Mira Oxenholt", role: "mechanic" },
    { id: "p2", name: "Tobiah Marsh", role: "mechanic" },
  ],
};

const pulleys = (part = {}) =>
  step("pulleys-scrape", {
    standing: "ready",
    cautions: ["fingers", "gloves"],
    fail: "Still dirty",
    back: ["a"],
    ...part,
  });

beforeEach(() => localStorage.clear());

it("shows the cautions before the action, begins a step, finishes it once they are seen, and goes on", async () => {
  let now: Job = job({
    current: "pulleys-scrape",
    step_list: [step("floor", { state: "done", standing: "finished" }), pulleys()],
  });
  const asked = serve({
    ...base,
    "GET /jobs/j1": () => now,
    "POST /jobs/j1/steps/pulleys-scrape": ({ body }) => {
      const action = body as StepAction;
      now =
        action.action === "begin"
          ? {
              ...now,
              step_list: [
                now.step_list[0] ?? step("x"),
                pulleys({ state: "begun", standing: "underway", by: "Mira Oxenholt" }),
              ],
            }
          : {
              ...now,
              current: "",
              step_list: [step("jar", { standing: "held", until: new Date(Date.now() + 90_000).toISOString() })],
            };
      return now;
    },
  });
  open();
  const main = await screen.findByTestId("main-action");
  expect(main).toBeDisabled();
  expect(main.textContent).toContain("Read the warnings first");
  for (const seen of screen.getAllByRole("button", { name: /^Got it/ })) fireEvent.click(seen);
  fireEvent.click(await screen.findByRole("button", { name: /Start/ }));
  expect(await screen.findByRole("button", { name: /pulleys-scrape is done/ })).toBeTruthy();
  expect(screen.getByRole("button", { name: "Still dirty" })).toBeTruthy();
  fireEvent.keyDown(document.body, { key: "Enter" });
  expect(await screen.findByText("Nothing to do here for now")).toBeTruthy();
  expect(screen.getByText(/1:[23]\d/)).toBeTruthy();
  const commands = asked.filter((a) => a.method === "POST").map((a) => a.body);
  expect(commands).toEqual([{ action: "begin" }, { action: "done", go_on: true, seen: ["fingers", "gloves"] }]);
});

it("stays at the step that is tapped while the one before it is on its way, also when it is the same", async () => {
  const floor = step("floor", { standing: "ready" });
  const skipped = step("jar", { state: "skipped", standing: "finished", by: "Mira Oxenholt" });
  let now = job({ current: "floor", step_list: [floor, step("jar", { standing: "ready" })] });
  let answer: ((after: Job) => void) | undefined;
  serve({
    ...base,
    "GET /jobs/j1": () => now,
    "POST /jobs/j1/steps/jar": () => new Promise<Job>((resolve) => (answer = resolve)),
  });
  open();
  fireEvent.click(await screen.findByTestId("step-jar"));
  fireEvent.click(await screen.findByRole("button", { name: "Skip step" }));
  const dialog = within(await screen.findByRole("dialog"));
  fireEvent.change(dialog.getByLabelText("Why"), { target: { value: "it is dry" } });
  fireEvent.click(dialog.getByRole("button", { name: "Skip step" }));
  await waitFor(() => expect(answer).toBeDefined());
  fireEvent.click(screen.getByTestId("step-jar"));
  now = job({ current: "floor", step_list: [floor, skipped] });
  answer?.(now);
  await waitFor(() => expect(screen.getByTestId("step-jar").dataset.state).toBe("skipped"));
  expect(screen.getByTestId("step-title").textContent).toBe("Step jar");
});

it("notes a finding that holds the bike, keeps what is refused, and says what keeps the hand-back", async () => {
  let now: Job = job({
    current: "oil",
    needs_second: true,
    step_list: [step("oil", { standing: "ready", amounts: [{ material: "oil", amount: 4.72, unit: "ml" }] })],
    holds: [
      { code: "check-open", what: "brakes-test", says: "Test both brakes" },
      { code: "step-open", what: "oil", says: "One drop on every roller" },
    ],
  });
  const asked = serve({
    ...base,
    "GET /jobs/j1": () => now,
    "POST /jobs/j1/findings": ({ body }) => {
      const f = body as NewFinding;
      now = {
        ...now,
        findings: [
          {
            id: "f1",
            code: f.code,
            severity: "stop",
            found_at: "2026-03-03T10:00:00Z",
            by: "Mira Oxenholt",
            place: f.place ?? "",
          },
        ],
      };
      return now;
    },
    "POST /jobs/j1/hand-back": () =>
      new Refused(409, "second-signature", "Not right.", {
        fields: [{ path: "second_pin", code: "wrong-pin", message: "That PIN is not right." }],
      }),
    "POST /jobs/j1/steps/oil": () => new Refused(409, "step-blocked", "Not yet: first Check it is dry inside."),
  });
  open();
  expect((await screen.findAllByText("4.7 mL")).length).toBe(1);
  fireEvent.click(screen.getByRole("button", { name: /Start/ }));
  expect(await screen.findByText("Not yet: first Check it is dry inside.")).toBeTruthy();

  fireEvent.click(screen.getByRole("button", { name: /Fault found/ }));
  const found = within(await screen.findByRole("dialog"));
  fireEvent.change(await found.findByLabelText("Fault found"), { target: { value: "pads-worn" } });
  expect(found.getByText(/Holds the bike until/)).toBeTruthy();
  fireEvent.change(found.getByLabelText("Where"), { target: { value: "rear" } });
  fireEvent.click(found.getByRole("button", { name: "Note it" }));
  expect(await screen.findByText("holds the bike")).toBeTruthy();
  expect(asked.find((a) => a.path.endsWith("/findings"))?.body).toEqual({ code: "pads-worn", place: "rear" });

  fireEvent.click(screen.getByTestId("hand-back"));
  const back = within(await screen.findByRole("dialog"));
  expect(back.getByText("safety check")).toBeTruthy();
  await waitFor(() => expect(back.getByRole("option", { name: "Tobiah Marsh" })).toBeTruthy());
  expect(back.queryByRole("option", { name: "Mira Oxenholt" })).toBeNull();
  fireEvent.change(back.getByLabelText("Who signs"), { target: { value: "p2" } });
  fireEvent.change(back.getByLabelText("Their PIN"), { target: { value: "1111" } });
  fireEvent.click(back.getByRole("button", { name: "Hand back" }));
  expect(await back.findByText("That PIN is not right.")).toBeTruthy();
  expect(asked.at(-1)?.body).toEqual({ version: 2, second_id: "p2", second_pin: "1111" });
});

it("notes a part with its price, says that the customer is to be asked, and strikes it out again", async () => {
  let now: Job = job({ current: "oil", agreed: { price: 6500 }, step_list: [step("oil", { standing: "ready" })] });
  const asked = serve({
    ...base,
    "GET /jobs/j1": () => now,
    "POST /jobs/j1/parts": ({ body }) => {
      const part = body as JobPart;
      if (part.count === 0)
        return new Refused(422, "invalid-input", "Not noted.", {
          fields: [{ path: "count", code: "out-of-range", message: "1 to 99 pieces." }],
        });
      now = {
        ...now,
        ask_owner: true,
        bill: { ...plan.quote, total: 9500 },
        parts: [{ ...part, entry_id: "e1", at: "2026-03-03T10:00:00Z", by: "Mira Oxenholt" }],
      };
      return now;
    },
    "POST /ledger/e1/strike": () => {
      now = { ...now, ask_owner: false, bill: plan.quote, parts: [] };
      return {};
    },
  });
  open();
  fireEvent.click(await screen.findByRole("button", { name: /^Part/ }));
  const noting = within(await screen.findByRole("dialog"));
  fireEvent.click(noting.getByRole("button", { name: "Brake pads" }));
  fireEvent.change(noting.getByLabelText("How many"), { target: { value: "0" } });
  fireEvent.change(noting.getByLabelText("Price of one"), { target: { value: "a lot" } });
  fireEvent.click(noting.getByRole("button", { name: "Note the part" }));
  expect(await noting.findByText(/is no price: write one such as 45.50/)).toBeTruthy();
  fireEvent.change(noting.getByLabelText("Price of one"), { target: { value: "15" } });
  fireEvent.click(noting.getByRole("button", { name: "Note the part" }));
  expect(await noting.findByText("1 to 99 pieces.")).toBeTruthy();
  fireEvent.change(noting.getByLabelText("How many"), { target: { value: "2" } });
  fireEvent.click(noting.getByRole("button", { name: "Note the part" }));
  expect((await screen.findByTestId("part")).textContent).toContain("2 × Brake pads €30.00");
  expect(screen.getByText("More than was agreed: ask the customer.")).toBeTruthy();
  expect(screen.getByText(/€95.00 with parts/)).toBeTruthy();
  expect(asked.filter((a) => a.path.endsWith("/parts")).at(-1)?.body).toEqual({
    what: "Brake pads",
    count: 2,
    price: 1500,
  });
  fireEvent.click(screen.getByRole("button", { name: "Void" }));
  const strike = within(await screen.findByRole("dialog"));
  fireEvent.change(strike.getByLabelText("What was wrong"), { target: { value: "another bike" } });
  fireEvent.click(strike.getByRole("button", { name: "Void" }));
  fireEvent(window, new Event("pagehide"));
  await waitFor(() => expect(screen.queryByTestId("part")).toBeNull());
});
