import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { expect, it } from "vitest";
import type { Bike, BikeDue as Due, DueRow, DueTask, Message } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { distanceIn } from "../../ui/distance";
import { OwnerPage } from "../owner/OwnerPage";
import { BikeDue } from "./BikeDue";
import { DuePlace } from "./DuePlace";
import { dueLine, whyLine } from "./due";
import { MessagesPlace } from "./MessagesPlace";

const task = (part: Partial<DueTask>): DueTask => ({
  code: "relubricate",
  used: 1.2,
  state: "due",
  binds: "days",
  since_hard_km: 200,
  since_km: 150,
  since_days: 36,
  every_days: 30,
  last_on: "2026-02-01",
  ...part,
});

const soaked = task({
  code: "clean-on-bike",
  binds: "event",
  event: "soaked-ride",
  event_on: "2026-03-01",
  event_by: "Mira",
});

const row: DueRow = {
  tag: "B-0077-R",
  customer: { id: "o1", name: "Ottoline Brack" },
  bike: "Brinewell Coble",
  state: "due",
  tasks: [task({}), soaked, task({ code: "wash", state: "soon", used: 0.9 })],
  visit: ["relubricate", "clean-on-bike", "wash"],
  saved_min: 52,
  may_tell: true,
};

const draft: Message = {
  id: "m1",
  tag: "B-0077-R",
  customer: row.customer,
  state: "draft",
  way: "message",
  address: "0555 014 118",
  body: "Your chain is dry.",
  codes: ["relubricate", "sealant"],
  created_at: "2026-03-03T10:00:00Z",
  tries: 0,
  version: 3,
};

it("says why and when a task is due, whichever clause binds", () => {
  expect(whyLine(task({}), distanceIn("km"))).toBe("36 of 30 days");
  expect(whyLine(soaked, distanceIn("km"))).toMatch(/^Heavy rain ride, 01 Mar.*, noted by Mira$/);
  expect(whyLine(task({ binds: "distance", every_hard_km: 300, never: true, guess: true }), distanceIn("km"))).toBe(
    "never noted; 200 of 300 wear km, a guess: nothing measured yet",
  );
  const line = (due_on: string, state: DueTask["state"] = "due") => dueLine({ due_on, state }, "2026-03-03");
  expect([line("2026-02-20"), line("2026-03-02"), line("2026-03-03"), line("2026-03-04", "soon")]).toEqual([
    "11 days late",
    "since yesterday",
    "now",
    "tomorrow",
  ]);
});

it("lists bikes by need, opens what is done in the same visit, and drafts a message that is read before it is sent", async () => {
  let messages: Message[] = [];
  const asked = serve({
    "GET /due": () => ({ day: "2026-03-03", until: "2099-01-01T00:00:00Z", rows: [row] }),
    "POST /bikes/B-0077-R/draft": () => {
      messages = [draft];
      return draft;
    },
    "GET /messages": () => ({ messages, total: messages.length }),
    "GET /rules": () => ({
      version: 1,
      rules: { intervals: { own: [{ code: "sealant", title: "Sealant and rim tape look" }] } },
    }),
    "PUT /messages/m1": ({ body }) => {
      const sent = body as { body?: string };
      if (sent.body === "short")
        return new Refused(422, "invalid-input", "Not right.", {
          fields: [{ path: "body", code: "out-of-range", message: "A message is 10 to 1000 characters." }],
        });
      messages = [{ ...draft, state: "not-reached", tries: 6, last_error: "the network did not take it" }];
      return messages[0];
    },
  });
  show(
    <Routes>
      <Route path="/due" element={<DuePlace />} />
      <Route path="/due/messages" element={<MessagesPlace />} />
    </Routes>,
    "/due",
  );
  const one = within(await screen.findByTestId("due-row"));
  expect(one.queryByText("Wash")).toBeNull();
  fireEvent.click(one.getByRole("button", { name: /1 more in the same visit, which saves 52 min/ }));
  expect(one.getByText("Wash")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Late" }));
  await screen.findByTestId("due-row");
  fireEvent.click(screen.getByRole("button", { name: "Draft a message" }));
  const said = await screen.findByLabelText("What is said");
  expect(await screen.findByText("Lubricate the chain, Sealant and rim tape look")).toBeTruthy();
  fireEvent.change(said, { target: { value: "short" } });
  fireEvent.click(screen.getByRole("button", { name: "Send it" }));
  expect(await screen.findByText("A message is 10 to 1000 characters.")).toBeTruthy();
  fireEvent.change(said, { target: { value: "Your chain is dry. Come by." } });
  fireEvent.click(screen.getByRole("button", { name: "Send it" }));
  expect(await screen.findByText("Reached nobody")).toBeTruthy();
  expect(screen.getByText(/6 tries: the network did not take it/)).toBeTruthy();
  expect(screen.getByText("No drafts wait.")).toBeTruthy();
  expect(asked.filter((a) => a.method === "PUT").at(-1)?.body).toEqual({
    action: "send",
    version: 3,
    body: "Your chain is dry. Come by.",
  });
});

const bike = {
  tag: "B-0077-R",
  customer: row.customer,
  facts: { make: "Brinewell" },
  version: 4,
  archived: false,
} as unknown as Bike;

it("notes on a bike what was done and what happened, keeps its own interval with the reason, and decides on what the customer told", async () => {
  let due: Due = {
    day: "2026-03-03",
    until: "2099-01-01T00:00:00Z",
    rate_hard_km_per_day: 5,
    tasks: [task({})],
    visit: ["relubricate"],
    saved_min: 0,
  };
  let told = [{ id: "r1", km: 300, told_at: "2026-03-03T09:00:00Z" }];
  const asked = serve({
    "GET /bikes/B-0077-R/due": () => due,
    "GET /bikes/B-0077-R/reports": () => told,
    "PUT /owner-reports/r1": ({ body }) => {
      if (!(body as { new_computer?: boolean }).new_computer)
        return new Refused(409, "lower-than-last", "300 km is less than the 900 km of 1 February.");
      told = [];
      return {};
    },
    "POST /bikes/B-0077-R/events": () => {
      due = { ...due, tasks: [soaked, ...due.tasks] };
      return due;
    },
    "PUT /bikes/B-0077-R": () =>
      new Refused(422, "invalid-input", "Not right.", {
        fields: [{ path: "facts.tasks.relubricate.reason", code: "missing", message: "Say why this bike is another." }],
      }),
    "POST /bikes/B-0077-R/due/relubricate": () => {
      due = { ...due, tasks: [] };
      return due;
    },
  });
  show(<BikeDue bike={bike} />);
  fireEvent.click(await screen.findByRole("button", { name: "Accept" }));
  fireEvent.click(await screen.findByRole("button", { name: "New bike computer fitted" }));
  await waitFor(() => expect(screen.queryByTestId("report")).toBeNull());

  fireEvent.click(screen.getByRole("button", { name: "Report rain, noise, skipping …" }));
  const event = within(await screen.findByRole("dialog"));
  fireEvent.click(event.getByRole("button", { name: "Heavy rain ride" }));
  fireEvent.click(event.getByRole("button", { name: "Note it" }));
  expect(await screen.findByTestId("task-clean-on-bike")).toBeTruthy();
  expect(asked.find((a) => a.path.endsWith("/events"))?.body).toEqual({ event: "soaked-ride" });

  const opens = screen.getAllByRole("button", { name: "Mark done or change interval" });
  fireEvent.click(opens.at(-1) as HTMLElement);
  const own = within(await screen.findByRole("dialog"));
  fireEvent.change(own.getAllByLabelText("Every")[1] as HTMLElement, { target: { value: "14" } });
  fireEvent.click(own.getByRole("button", { name: "Keep this bike's own" }));
  expect(await own.findByText("Say why this bike is another.")).toBeTruthy();
  expect(asked.at(-1)?.body).toMatchObject({
    version: 4,
    facts: { tasks: { relubricate: { every_days: 14, reason: "" } } },
  });
  fireEvent.click(own.getByRole("button", { name: "Done today, outside of a job" }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  expect(await screen.findByText("Nothing is due")).toBeTruthy();
});

it("shows an owner the bike in plain words and takes what they tell; a withdrawn link says so", async () => {
  const page = {
    shop: "Tidewrack Lane",
    day: "2026-03-03",
    until: "2099-01-01T00:00:00Z",
    tag: "B-0077-R",
    bike: "Brinewell Coble",
    lubricant: "drip-wax",
    distance_unit: "km",
    measured: true,
    left_km: { low: 200, mid: 640, high: 900 },
    chain: { verdict: "ok", state: "fresh", taken_at: "2026-02-01T10:00:00Z", limit_pct: 0.5 },
    next: [{ what: "it needs a wash", state: "due" }],
    done: [
      {
        closed_at: "2026-02-01T10:00:00Z",
        route: "soak",
        told: ["Both brakes tested."],
        parts: ["Brake pads"],
      },
    ],
    in_workshop: false,
    reportable: ["squeak"],
    told: 0,
  };
  const asked = serve({
    "GET /owner-page/secret": () => page,
    "POST /owner-page/secret": () => ({ ...page, told: 1 }),
    "GET /owner-page/old": () => new Refused(404, "link-not-found", "This link opens nothing any longer."),
  });
  const shown = show(<OwnerPage token="secret" />);
  expect((await screen.findByTestId("worn")).textContent).toBe("When it was measured, the chain was fine.");
  expect(screen.getByText(/could be as soon as/).textContent).toContain("640");
  expect(screen.getByText("Both brakes tested.")).toBeTruthy();
  expect(screen.getByText(/wax protects little/)).toBeTruthy();
  fireEvent.change(screen.getByLabelText("The odometer shows"), { target: { value: "far" } });
  fireEvent.click(screen.getByRole("button", { name: "Tell the workshop" }));
  expect(await screen.findByText("Type whole kilometres, such as 5980.")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("The odometer shows"), { target: { value: "1200" } });
  fireEvent.click(screen.getByRole("button", { name: "It squeaks" }));
  fireEvent.click(screen.getByRole("button", { name: "Tell the workshop" }));
  expect(await screen.findByRole("status")).toBeTruthy();
  expect(asked.at(-1)?.body).toEqual({ km: 1200, event: "squeak" });
  shown.unmount();
  show(<OwnerPage token="old" />);
  expect(await screen.findByText("This link opens nothing any longer.")).toBeTruthy();
  expect(screen.queryByRole("button", { name: "Try again" })).toBeNull();
});
