import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Floor, FloorTry, JobSummary } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { FloorPlace } from "./FloorPlace";
import { at, floor, floorJob, stint } from "./floor-kit";

const soon = new Date(Date.now() + 3_600_000).toISOString();
const past = new Date(Date.now() - 3_600_000).toISOString();
const job = (id: string, part: Partial<JobSummary>): JobSummary => ({
  id,
  tag: "B-0077-R",
  customer: { id: "o", name: "Ottoline Brack" },
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
    "GET /floor": () => floor(),
    "GET /jobs": () => [
      job("ready", { ready: true, open_checks: 0, done: 10, left_min: 0, promised_at: soon }),
      job("next", {
        route: "soak",
        next: { code: "rings-brush", title: "Brush the chainrings", minutes: 3 },
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
  expect(rows[0]).toContain("All checks done");
  expect(rows[1]).toContain("Soak: next Brush the chainrings");
  expect(rows[1]).toContain("late since");
  expect(rows[1]).toContain("1 h 40 min hands-on left");
  expect(rows[2]).toContain("Clip-on cleaner: Mira O. at “White rag test”");
  expect(rows[3]).toMatch(/Bare chain for wax: waits (5:0[01]|4:5\d)/);
  expect(rows[4]).toContain("Something found holds it");
  expect(rows[5]).toContain("Plan it: routes side by side");
  expect(screen.getByRole("region", { name: "Ready to hand back" }).textContent).toContain("Ready to hand back 1");
  expect(screen.getByRole("region", { name: "In progress" }).textContent).toContain("In progress 4");
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

const clockNow = at("10:00");
type Hand = Floor["people"][number];
const open = (handlers: Record<string, (asked: { body: unknown; path: string }) => unknown>) =>
  serve({ "GET /waits": () => ({ now: clockNow, waits: [] }), "GET /jobs": () => [job("j1", {})], ...handlers });

it("says who does what now, and starts what is next for whoever looks at it", async () => {
  const asked = open({
    "GET /floor": () => floor(),
    "POST /jobs/j1/steps/floor": () => ({}),
  });
  show(<FloorPlace />, "/today");
  const hands = (await screen.findAllByTestId("hands")).map((h) => h.textContent ?? "");
  expect(hands[0]).toContain("Mira O.");
  expect(hands[0]).toContain("Protect the floornow, 10 min · then cleaner on");
  expect(hands[1]).toContain("Brush, top down10 min so far of 10");
  expect(within(screen.getAllByTestId("hands")[1] as HTMLElement).queryByRole("button", { name: /Start/ })).toBeNull();
  fireEvent.click(screen.getByRole("button", { name: /^Start/ }));
  await waitFor(() => expect(screen.getByLabelText("address").textContent).toBe("/jobs/j1"));
  const began = asked.find((a) => a.method === "POST");
  expect([began?.body, began?.key !== null]).toEqual([{ action: "begin" }, true]);
});

it("has no Start for what cannot begin yet", async () => {
  const [posy, mira] = floor().people;
  const waiting = stint({ state: "planned", start: at("10:20"), title: "Wipe the degreaser off" });
  open({ "GET /floor": () => floor({ people: [posy as Hand, { ...(mira as Hand), next: waiting }] }) });
  show(<FloorPlace />, "/today");
  const hers = (await screen.findAllByTestId("hands"))[0] as HTMLElement;
  expect(hers.textContent).toContain("Wipe the degreaser offat 10:20, 10 min");
  expect(within(hers).queryByRole("button", { name: /Start/ })).toBeNull();
});

it("tells what the wall cannot keep, what has no place, and what moved and why", async () => {
  open({
    "GET /floor": () =>
      floor({
        jobs: [floorJob({ late_min: 20, bound_by: "hours", bound_what: "Mira Oxenholt" })],
        helps: [{ person: "Mira Oxenholt", save_min: 20 }],
        not_placed: [
          { tag: "B-0077-R", title: "Lower the chain", why: "no-skill" },
          { tag: "B-0077-R", title: "Oil", why: "not-after" },
        ],
        moved: [
          {
            tag: "B-0142-K",
            title: "Oil",
            from: at("13:00"),
            to: at("14:00"),
            by_before: "Maud Kestle",
            by: "Mira Oxenholt",
          },
        ],
        because: [{ what: "took-longer", tag: "B-0077-R", title: "Brush, top down", min: 25 }],
      }),
  });
  show(<FloorPlace />);
  const told = (await screen.findByTestId("told")).textContent ?? "";
  expect(told).toContain("0142 would be 20 min late: Mira Oxenholt's hours end.");
  expect(told).toContain("An hour more of Mira Oxenholt would keep every promise.");
  expect(told).toContain("0077 “Lower the chain” has no place in the plan: nobody here does it.");
  expect(told).not.toContain("“Oil” has");
  expect(told).toContain("One piece of work moved: “Brush, top down” of 0077 takes 25 min longer.");
  expect(told).toContain("0142 Oil 13:00 → 14:00, Mira Oxenholt for Maud Kestle");
});

it("shows what another promise or other hands would cost before they are kept", async () => {
  let wall = floor();
  const tries: FloorTry[] = [];
  const asked = open({
    "GET /floor": () => wall,
    "POST /floor/try": ({ body }) => {
      const t = body as FloorTry;
      tries.push(t);
      return t.person
        ? { moves: 2, pushed: [], saved: [], later_min: 0, kept: true, late_min: 0 }
        : {
            moves: 4,
            pushed: [{ tag: "B-0077-R", customer: "Ottoline Brack", by_min: 15 }],
            saved: [],
            later_min: 0,
            kept: true,
            late_min: 0,
          };
    },
    "PUT /jobs/j1/promise": ({ body }) => {
      const sent = body as { promised_at: string };
      wall = floor({ jobs: [floorJob({ promised_at: sent.promised_at, version: 4 })] });
      return wall;
    },
    "PUT /jobs/j1/steps/oil/hands": () => new Refused(409, "no-skill", "They do not do this kind of work here."),
  });
  show(<FloorPlace />);
  fireEvent.click(await screen.findByRole("button", { name: "Promise of B-0142-K" }));
  const dialog = within(await screen.findByRole("dialog"));
  expect(dialog.getByText("15:20")).toBeTruthy();
  expect(dialog.queryByTestId("would-cost"), "nothing was changed yet").toBeNull();
  fireEvent.change(dialog.getByLabelText("Promised for"), { target: { value: "2026-05-05T14:30" } });
  expect(await dialog.findByText("It can be kept. It makes late: 0077 by 15 min. 4 pieces of work move.")).toBeTruthy();
  fireEvent.click(dialog.getByRole("checkbox"));
  fireEvent.click(dialog.getByRole("button", { name: "Promise it by 14:30" }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  expect(asked.find((a) => a.path.endsWith("/promise"))?.body).toEqual({
    version: 3,
    waiting: true,
    promised_at: at("14:30"),
  });
  for (const tried of tries) expect(tried).toEqual({ job: "j1", promised_at: at("14:30") });
  expect(tries).not.toHaveLength(0);
  tries.length = 0;

  fireEvent.click(within(screen.getByTestId("rail")).getByRole("button", { name: /0142.*Oil/ }));
  const work = within(await screen.findByRole("dialog"));
  expect(work.getByRole("button", { name: "Mira Oxenholt" }).getAttribute("aria-pressed")).toBe("true");
  fireEvent.click(work.getByRole("button", { name: "Posy Peake" }));
  expect(await work.findByText("It can be kept. 2 pieces of work move.")).toBeTruthy();
  fireEvent.change(work.getByLabelText("Begins at, if it must"), { target: { value: "2026-05-05T15:10" } });
  fireEvent.click(work.getByRole("button", { name: "Keep it so" }));
  expect(await work.findByText("They do not do this kind of work here.")).toBeTruthy();
  expect(asked.find((a) => a.path.endsWith("/hands"))?.body).toEqual({ person: "p2", at: at("15:10") });
  fireEvent.click(work.getByRole("button", { name: "Close" }));
  expect(screen.queryByRole("dialog")).toBeNull();
});

it("turns to the next day after closing time, and to any of three", async () => {
  const tomorrow = "2026-05-06";
  open({
    "GET /floor": (): Floor => floor({ stints: [stint({ start: at("09:00", tomorrow), end: at("09:10", tomorrow) })] }),
  });
  show(<FloorPlace />);
  const days = within(await screen.findByRole("navigation", { name: "Days" }));
  expect(days.getByRole("button", { name: "Tomorrow" }).getAttribute("aria-pressed")).toBe("true");
  expect(screen.getByTestId("stint").getAttribute("data-step")).toBe("floor");
  fireEvent.click(days.getByRole("button", { name: "Friday 8 May" }));
  expect(screen.queryByTestId("stint")).toBeNull();
  fireEvent.click(days.getByRole("button", { name: "Today" }));
  expect(days.getByRole("button", { name: "The whole day" })).toBeTruthy();
});

it("plans around who goes home or comes later, and takes it back", async () => {
  let wall = floor();
  const away = (from: string, until: string) => [
    { id: "a1", from_at: from, until_at: until, noted_by: "Mira Oxenholt" },
  ];
  const asked = open({
    "GET /floor": () => wall,
    "POST /people/p2/absences": ({ body }) => {
      const sent = body as { from_at: string; until_at: string };
      if (Date.parse(sent.until_at) < Date.parse(sent.from_at))
        return new Refused(422, "invalid-input", "No.", {
          fields: [{ path: "until_at", code: "out-of-order", message: "They come back after they go." }],
        });
      wall = floor({ seeking: true });
      const posy = wall.people[0];
      if (posy) posy.away = away(sent.from_at, sent.until_at);
      return wall;
    },
    "DELETE /absences/a1": () => {
      wall = floor();
      return wall;
    },
  });
  show(<FloorPlace />);
  const goes = { name: "Goes home or comes later: Posy Peake" };
  fireEvent.click(await screen.findByRole("button", goes));
  const dialog = within(await screen.findByRole("dialog"));
  fireEvent.click(dialog.getByRole("button", { name: "Away for a while" }));
  fireEvent.click(dialog.getByRole("button", { name: "Away for that while" }));
  expect(dialog.getAllByText("Say when.")).toHaveLength(2);
  expect(asked.some((a) => a.method === "POST")).toBe(false);
  fireEvent.change(dialog.getByLabelText("Goes at"), { target: { value: "2026-05-05T15:00" } });
  fireEvent.change(dialog.getByLabelText("Is here at"), { target: { value: "2026-05-05T14:00" } });
  fireEvent.click(dialog.getByRole("button", { name: "Away for that while" }));
  expect(await dialog.findByText("They come back after they go.")).toBeTruthy();
  fireEvent.click(dialog.getAllByRole("button", { name: "Goes home now" })[0] as HTMLElement);
  fireEvent.submit(dialog.getByText("For the rest of the day", { exact: false }).closest("form") as HTMLElement);
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  expect(screen.getByText(/a newer plan is being made/)).toBeTruthy();
  expect(screen.queryByRole("button", goes)).toBeNull();
  fireEvent.click(screen.getByRole("button", { name: "Here after all" }));
  expect(await screen.findByRole("button", goes)).toBeTruthy();
});

it("lists one person's day for a phone, theirs first who looks at it", async () => {
  open({ "GET /floor": () => floor() });
  show(<FloorPlace />);
  const mine = within(await screen.findByRole("region", { name: "One person's day" }));
  expect(mine.getAllByRole("listitem").map((l) => l.textContent)).toEqual([
    expect.stringMatching(/^08:40Measured/),
    expect.stringMatching(/^10:00Protect the floor · Cleaner on.*13 min/),
    expect.stringMatching(/^14:00Oil/),
  ]);
  fireEvent.click(mine.getByRole("button", { name: "Posy P." }));
  expect(mine.getAllByRole("listitem").map((l) => l.textContent)).toEqual([expect.stringMatching(/^09:50Brush/)]);
  fireEvent.click(mine.getByRole("button", { name: /Brush/ }));
  expect(within(await screen.findByRole("dialog")).getByText(/10 min in one go/)).toBeTruthy();
});
