import { fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, expect, it } from "vitest";
import type { Intake, Offer } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { typedWhen } from "../../ui/when";
import { job, words } from "../jobs/job-kit";
import { CleanPage, LookAgain } from "./CleanPage";
import { fromIntake, toIntake } from "./cleaning";

const answer = {
  lubricant_on: "oil",
  opens: "joining-link",
  verdict: "ok",
  unknown: [],
  choice: {
    route: "bath",
    chain_route: "bath",
    parts_route: "bath",
    order_joining_link: false,
    lubricant_next: "oil",
    reasons: [{ code: "grade" }],
    cautions: ["gloves"],
    routes: [],
    wash: "hose",
    washes: [],
  },
};

const open = () =>
  show(
    <Routes>
      <Route path="/bikes/:tag/clean" element={<CleanPage />} />
      <Route path="/jobs/:id" element={<p>the job</p>} />
    </Routes>,
    "/bikes/B-0077-R/clean",
  );

const bike = { tag: "B-0077-R", facts: { make: "Brinewell" }, customer: { id: "o", name: "Brack" } };

const offer: Offer = {
  until: "2099-01-01T00:00:00Z",
  route: "soak",
  hands_min: 74,
  ready_min: 200,
  jobs: 2,
  kept: true,
  late_min: 0,
  pushed: [],
};

beforeEach(() => localStorage.clear());

it("takes a bike in with what was seen and said, keeps it when it is refused, and forgets it when it is done", async () => {
  let refuse = true;
  const asked = serve({
    "GET /bikes/B-0077-R": () => bike,
    "GET /bikes/B-0077-R/jobs": () => [],
    "GET /job-words": () => words,
    "POST /bikes/B-0077-R/cleaning-plan": () => answer,
    "POST /bikes/B-0077-R/offer": () => offer,
    "POST /bikes/B-0077-R/jobs": () =>
      refuse
        ? new Refused(422, "invalid-input", "The promised time has passed already.", {
            fields: [{ path: "promised_at", code: "in-the-past", message: "The promised time has passed already." }],
          })
        : job({ state: "arrived" }),
  });
  open();
  fireEvent.click(await screen.findByRole("button", { name: "Gritty, grinding" }));
  fireEvent.click(screen.getByRole("button", { name: /Grit heard/ }));
  fireEvent.click(screen.getByRole("button", { name: /Mud dried on/ }));
  fireEvent.click(screen.getByLabelText("Heavier than 20 kg"));
  fireEvent.change(screen.getByLabelText("In the customer's words"), { target: { value: " grinds " } });
  fireEvent.change(screen.getByLabelText("Customer asked for"), { target: { value: "by four" } });
  fireEvent.change(screen.getByLabelText("Promised for"), { target: { value: "2020-01-01T16:00" } });
  fireEvent.click(await screen.findByRole("button", { name: /Book the bike in/ }));
  expect((await screen.findAllByText("The promised time has passed already.")).length).toBeGreaterThan(0);
  expect((screen.getByLabelText("Customer asked for") as HTMLInputElement).value).toBe("by four");
  refuse = false;
  fireEvent.click(screen.getByRole("button", { name: /Book the bike in/ }));
  expect(await screen.findByText("the job")).toBeTruthy();
  const body = asked.filter((a) => a.path.endsWith("/jobs") && a.method === "POST").at(-1)?.body as Intake;
  expect(body).toEqual({
    frame_grade: 3,
    drivetrain_grade: 3,
    heavy: true,
    complaints: ["gritty"],
    reports: "grinds",
    wants: "by four",
    promised_at: new Date("2020-01-01T16:00").toISOString(),
  });
  expect(localStorage.getItem("pony.draft.clean.B-0077-R") ?? "{}").toBe("{}");
});

it("offers the job of a bike that is in the workshop already, in place of another", async () => {
  localStorage.setItem("pony.draft.clean.B-0077-R", JSON.stringify({ frame_grade: 1, drivetrain_grade: 2 }));
  serve({
    "GET /bikes/B-0077-R": () => bike,
    "GET /bikes/B-0077-R/jobs": () => [{ id: "j1", state: "planned", created_at: "2026-03-03T10:00:00Z" }],
    "GET /job-words": () => words,
    "POST /bikes/B-0077-R/cleaning-plan": () => answer,
  });
  open();
  expect((await screen.findByRole("link", { name: "Open its job" })).getAttribute("href")).toBe("/jobs/j1");
  await waitFor(() => expect(screen.queryByRole("button", { name: /Book the bike in/ })).toBeNull());
});

it("sends nothing before both grades were chosen, and nothing that was left empty", () => {
  expect(toIntake({ drivetrain_grade: 2 })).toBeUndefined();
  expect(toIntake({ drivetrain_grade: 2, frame_grade: 0, reports: "  ", promised: "", guide: false })).toEqual({
    drivetrain_grade: 2,
    frame_grade: 0,
    complaints: [],
  });
});

it("shows what was seen of a bike that was taken in, keeps a change over the version seen, and plans it again", async () => {
  let stale = true;
  const planned = job({ intake: { frame_grade: 1, drivetrain_grade: 2, complaints: ["gritty"], wants: "by four" } });
  const asked = serve({
    "GET /jobs/j1": () => planned,
    "GET /bikes/B-0077-R": () => bike,
    "GET /bikes/B-0077-R/jobs": () => [{ id: "j1", state: "planned", created_at: "2026-03-03T10:00:00Z" }],
    "GET /job-words": () => words,
    "POST /bikes/B-0077-R/cleaning-plan": () => answer,
    "PUT /jobs/j1/intake": () =>
      stale
        ? new Refused(409, "changed-meanwhile", "Somebody else changed this meanwhile.")
        : { ...planned, version: 3 },
  });
  show(
    <Routes>
      <Route path="/jobs/:id/intake" element={<LookAgain />} />
      <Route path="/jobs/:id/plan" element={<p>the routes</p>} />
    </Routes>,
    "/jobs/j1/intake",
  );
  expect((await screen.findByLabelText("Customer asked for")) as HTMLInputElement).toHaveValue("by four");
  expect(screen.queryByRole("link", { name: "Open its job" })).toBeNull();
  fireEvent.click(screen.getByRole("button", { name: /Grit heard/ }));
  fireEvent.click(await screen.findByRole("button", { name: /Save/ }));
  expect(await screen.findByText("Somebody else changed this meanwhile.")).toBeTruthy();
  stale = false;
  fireEvent.click(screen.getByRole("button", { name: /Save/ }));
  expect(await screen.findByText("the routes")).toBeTruthy();
  expect(asked.filter((a) => a.method === "PUT").at(-1)?.body).toEqual({
    version: 2,
    intake: { frame_grade: 1, drivetrain_grade: 3, complaints: ["gritty"], wants: "by four" },
  });
});

it("takes a promised time to the field and back without moving it", () => {
  const intake = { frame_grade: 1, drivetrain_grade: 2, complaints: [], promised_at: "2026-03-03T15:30:00.000Z" };
  expect(toIntake(fromIntake(intake))).toEqual(intake);
});

it("offers the earliest promise, and says what a tighter one would push", async () => {
  const early = new Date();
  early.setDate(early.getDate() + 1);
  early.setHours(16, 15, 0, 0);
  let answerNow = () => {};
  const thought = new Promise<void>((done) => {
    answerNow = done;
  });
  const asked = serve({
    "GET /bikes/B-0077-R": () => bike,
    "GET /bikes/B-0077-R/jobs": () => [],
    "GET /job-words": () => words,
    "POST /bikes/B-0077-R/cleaning-plan": () => answer,
    "POST /bikes/B-0077-R/offer": async ({ body }): Promise<Offer> => {
      const at = (body as Intake).promised_at;
      if (at) await thought;
      if (at === undefined || at === early.toISOString()) return { ...offer, earliest_at: early.toISOString() };
      const pushed = [{ tag: "B-0142-K", customer: "Tamsin Overcliffe", by_min: 25 }];
      return { ...offer, earliest_at: early.toISOString(), kept: false, late_min: 40, pushed };
    },
  });
  open();
  fireEvent.click(await screen.findByRole("button", { name: /Grit heard/ }));
  expect(screen.queryByTestId("offer")).toBeNull();
  fireEvent.click(screen.getByRole("button", { name: /Mud dried on/ }));
  const said = await screen.findByTestId("offer");
  expect(said.textContent).toContain(
    "Earliest tomorrow at 16:15: 74 min hands-on, 3 h 20 min with its waits, beside 2 jobs in the workshop, none of them later for it.",
  );
  fireEvent.change(screen.getByLabelText("In the customer's words"), { target: { value: "grinds" } });
  const count = asked.filter((a) => a.path.endsWith("/offer")).length;
  const tight = new Date(early.getTime() - 3_600_000);
  fireEvent.change(screen.getByLabelText("Promised for"), { target: { value: typedWhen(tight.toISOString()) } });
  // While the day is asked for room, nothing is said of the time, and the older offer cannot be taken.
  expect(screen.getByText("Asking the day for room…")).toBeTruthy();
  expect(screen.queryByText(/The time you gave/)).toBeNull();
  expect((screen.getByRole("button", { name: "Promise that" }) as HTMLButtonElement).disabled).toBe(true);
  answerNow();
  expect(
    await screen.findByText("The time you gave would be missed by 40 min. It makes late: 0142 by 25 min."),
  ).toBeTruthy();
  expect(asked.filter((a) => a.path.endsWith("/offer")).length).toBe(count + 1);
  fireEvent.click(screen.getByRole("button", { name: "Promise that" }));
  expect((screen.getByLabelText("Promised for") as HTMLInputElement).value).toBe(typedWhen(early.toISOString()));
  expect(screen.queryByText(/would be missed/)).toBeNull();
});
