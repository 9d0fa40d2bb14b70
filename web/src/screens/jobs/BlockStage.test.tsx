import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, expect, it } from "vitest";
import type { BlockAction, BlockView, Job, StepView } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { Slips } from "../../ui/Slips";
import { JobPage } from "./JobPage";
import { job, step, words } from "./job-kit";

const block = (steps: StepView[], part: Partial<BlockView> = {}): BlockView => ({
  code: steps[0]?.code ?? "",
  title: "Take it apart",
  station: "stand",
  minutes: 8,
  steps: steps.map((s) => s.code),
  standing: "ready",
  cautions: ["fingers"],
  tools: ["drip tray"],
  amounts: [{ material: "degreaser", amount: 90, unit: "ml" }],
  ...part,
});

const ofSteps = (steps: StepView[], part: Partial<BlockView> = {}) =>
  job({ current: steps[0]?.code ?? "", block: steps[0]?.code ?? "", step_list: steps, blocks: [block(steps, part)] });

/** The shop, with a job whose block answers as told. */
const open = (start: Job, act: (action: BlockAction, now: Job) => Job | Refused) => {
  let now = start;
  const code = start.block;
  const asked = serve({
    "GET /job-words": () => words,
    "GET /waits": () => ({ now: new Date().toISOString(), waits: [] }),
    "GET /people": () => [],
    "GET /jobs/j1": () => now,
    [`POST /jobs/j1/blocks/${code}`]: ({ body }) => {
      const answer = act(body as BlockAction, now);
      if (!(answer instanceof Refused)) now = answer;
      return answer;
    },
  });
  show(
    <>
      <Routes>
        <Route path="/jobs/:id" element={<JobPage />} />
      </Routes>
      <Slips />
    </>,
    "/jobs/j1",
    { way: "blocks" },
  );
  return asked;
};

const all = (now: Job, state: StepView["state"], part: Partial<StepView> = {}): Job => ({
  ...now,
  step_list: now.step_list.map((s) => ({ ...s, state, ...part })),
});

beforeEach(() => localStorage.clear());

it("reads all warnings once, starts with them, ends all with one press, and takes it back", async () => {
  const steps = [step("cassette", { standing: "ready" }), step("pulleys", { standing: "ready" })];
  const asked = open(ofSteps(steps), ({ action }, now) =>
    action === "done"
      ? all(now, "done", { standing: "finished", takes_back: true })
      : all(now, "begun", { standing: "underway", mine: true }),
  );
  expect(await screen.findByTestId("block-done")).toBeDisabled();
  expect(screen.getByText(/drip tray/).textContent).toMatch(/drip tray.*90 mL/);
  fireEvent.click(screen.getByRole("button", { name: "Got it, start" }));
  fireEvent.click(await screen.findByRole("button", { name: /All 2 done/ }));
  fireEvent.click(await screen.findByRole("button", { name: /Take it back/ }));
  expect(await screen.findByRole("button", { name: /All 2 done/ })).toBeTruthy();
  const sent = asked.filter((a) => a.method === "POST").map((a) => (a.body as BlockAction).action);
  expect(sent).toEqual(["begin", "done", "take-back"]);
});

it("has safety checks passed by themselves, and what went wrong said where it went wrong", async () => {
  const steps = [
    step("wheel-in", { state: "begun", standing: "underway", mine: true }),
    step("brakes-test", { gate: true, fail: "Brakes fail", standing: "blocked" }),
  ];
  const asked = open(
    ofSteps(steps, { cautions: [], standing: "underway" }),
    () => new Refused(409, "step-taken", "Tobiah Marsh is at “Wheel in”."),
  );
  expect(await screen.findByTestId("block-done")).toBeDisabled();
  expect(screen.getByTestId("block-done").textContent).toContain("Checks first");
  const line = screen.getByTestId("line-brakes-test");
  expect(within(line).getByRole("button", { name: /^Fail.*Brakes fail/ })).toBeTruthy();
  fireEvent.click(within(line).getByRole("button", { name: /^Pass/ }));
  expect(await screen.findByText("Tobiah Marsh is at “Wheel in”.")).toBeTruthy();
  await waitFor(() => expect(asked.some((a) => (a.body as BlockAction)?.step === "brakes-test")).toBe(true));
});

it("takes faults, notes and parts while nothing but a wait runs", async () => {
  const until = new Date(Date.now() + 90_000).toISOString();
  open(job({ current: "", block: "", step_list: [step("jar", { standing: "held", until })] }), (_, now) => now);
  expect(await screen.findByText("Nothing to do here for now")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: /^Note/ }));
  expect(await screen.findByRole("dialog")).toBeTruthy();
});
