import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";
import type { Bath, WaitAction, WaitView } from "../api/client";
import { Refused, serve, show } from "../test-kit";
import { WaitsStrip } from "./Waits";

// The server's clock is an hour ahead of this device's: ends are the server's.
const ahead = 3_600_000;
const server = (minutes: number) => new Date(Date.now() + ahead + minutes * 60_000).toISOString();
const wait = (id: string, part: Partial<WaitView>): WaitView => ({
  id,
  what: "jar-soak",
  began_at: server(-20),
  least_at: server(10),
  ...part,
});
const list = (waits: WaitView[]) => ({ now: new Date(Date.now() + ahead).toISOString(), waits });

beforeEach(() => {
  localStorage.clear();
  document.title = "Earnest Pony";
});

it("shows what runs by the server's clock, calls for what is over, and says how many call", async () => {
  serve({
    "GET /baths": () => [],
    "GET /waits": () =>
      list([
        wait("late", {
          tag: "B-0142-K",
          what: "cleaner-on",
          place: "stand",
          least_at: server(-10),
          most_at: server(-1),
        }),
        wait("over", { tag: "B-0119-C", what: "dry", place: "rack", least_at: server(-1) }),
        wait("soon", { what: "tub-soak", least_at: server(-1), most_at: server(5) }),
        wait("clock", {
          tag: "B-0031-W",
          what: "bare-steel",
          began_at: server(-20),
          least_at: server(-20),
          most_at: server(40),
        }),
        wait("runs", { tag: "B-0077-R", place: "tub" }),
      ]),
  });
  show(<WaitsStrip />);
  await waitFor(() => expect(screen.getAllByTestId("wait").length).toBe(5));
  // Until the answer was there the device's own clock had to do; a second later it is the server's.
  await waitFor(() =>
    expect(screen.getAllByTestId("wait").map((w) => w.dataset.state)).toEqual([
      "late",
      "over",
      "over",
      "runs",
      "clock",
    ]),
  );
  const said = screen.getAllByTestId("wait").map((w) => w.textContent ?? "");
  expect(said[0]).toMatch(/cleaner on · stand\+(1:0\d|0:59)/);
  expect(said[1]).toContain("drying · rackdone");
  expect(said[2]).toMatch(/Shoptub soaklate in (5:0[01]|4:5\d)/);
  expect(said[4]).toMatch(/bare: lubricate(40:0[01]|39:5\d)/);
  expect(said[3]).toMatch(/jar soak · tub(10:0[01]|9:5\d)/);
  await waitFor(() => expect(document.title).toBe("(3) Earnest Pony"));
  expect(screen.getAllByRole("status")[0]?.textContent).toMatch(
    /^Too long: cleaner on.*Done: drying, B-0119-C. Done: tub soak.$/,
  );
});

it("takes a wait that is over, ends or extends one that runs with a reason, and shows what is refused", async () => {
  let waits = [
    wait("over", { tag: "B-0119-C", what: "dry", least_at: server(-1), job_id: "j1" }),
    wait("runs", { tag: "B-0077-R" }),
  ];
  const asked = serve({
    "GET /baths": () => [],
    "GET /waits": () => list(waits),
    "POST /waits/over": () => {
      waits = waits.slice(1);
      return list(waits);
    },
    "POST /waits/runs": ({ body }) => {
      if (!(body as WaitAction).reason)
        return new Refused(422, "invalid-input", "Why?", {
          fields: [{ path: "reason", code: "missing", message: "Say in a few words why." }],
        });
      return new Refused(409, "too-long", "That is longer than is safe for it: alloy parts come out in two hours.", {
        fields: [{ path: "minutes", code: "too-long", message: "90 min from now is the most." }],
      });
    },
  });
  show(<WaitsStrip />);
  fireEvent.click((await screen.findAllByTestId("wait"))[0] as HTMLElement);
  fireEvent.click(within(await screen.findByRole("dialog")).getByRole("button", { name: "Take it" }));
  await waitFor(() => expect(screen.getAllByTestId("wait").length).toBe(1));
  expect(asked.find((a) => a.method === "POST")?.body).toEqual({ action: "take" });

  fireEvent.click(screen.getByTestId("wait"));
  const dialog = within(await screen.findByRole("dialog"));
  expect(dialog.queryByRole("button", { name: "Take it" })).toBeNull();
  fireEvent.click(dialog.getByRole("button", { name: "End it now" }));
  expect(await dialog.findByText("Say in a few words why.")).toBeTruthy();
  fireEvent.change(dialog.getByLabelText("Why"), { target: { value: "very foul" } });
  fireEvent.change(dialog.getByLabelText("Longer by"), { target: { value: "300" } });
  fireEvent.click(dialog.getByRole("button", { name: "Make it longer" }));
  expect(await dialog.findByText("90 min from now is the most.")).toBeTruthy();
  expect(asked.at(-1)?.body).toEqual({ action: "extend", minutes: 300, reason: "very foul" });
});

it("starts a timer of the shop's own, rings once a tap has allowed it, and watches a pot that is on", async () => {
  const started = vi.fn();
  class Silent {
    currentTime = 0;
    destination = {};
    createOscillator = () => ({ frequency: { value: 0 }, connect: (n: unknown) => n, start: started, stop: () => {} });
    createGain = () => ({
      gain: { setValueAtTime: () => {}, exponentialRampToValueAtTime: () => {} },
      connect: (n: unknown) => n,
    });
  }
  vi.stubGlobal("AudioContext", Silent);
  let waits: WaitView[] = [];
  const pot: Bath = {
    id: "b",
    kind: "wax-pot",
    facts: { name: "Wax pot", fluid: "wax", volume_ml: 500, clean_only: false },
    filled_at: server(-9000),
    points: 40,
    left: 38,
    settled: 0,
    settles_more: false,
    dirty: false,
    pot: {
      heating_since: server(-20),
      celsius: 131.4,
      state: "alarm",
      least_c: 85,
      wanted_c: 95,
      most_c: 110,
      alarm_c: 130,
      simulated: true,
    },
  };
  const asked = serve({
    "GET /baths": () => [pot],
    "GET /waits": () => list(waits),
    "POST /waits": () => {
      waits = [wait("own", { what: "glue", least_at: server(-0.01) })];
      return list(waits);
    },
  });
  show(<WaitsStrip />);
  expect((await screen.findByTestId("pot-on")).textContent).toBe("Wax potALARM: heat off, simulated131 °C");
  expect(screen.getByText("No timers")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Sound off" }));
  expect(started).toHaveBeenCalledTimes(2);
  fireEvent.click(screen.getByRole("button", { name: "Timer" }));
  const dialog = within(await screen.findByRole("dialog"));
  fireEvent.change(dialog.getByLabelText("What for"), { target: { value: "glue" } });
  fireEvent.change(dialog.getByLabelText("For"), { target: { value: "15" } });
  fireEvent.click(dialog.getByRole("button", { name: "Start timer" }));
  await screen.findByTestId("wait");
  expect(asked.find((a) => a.path === "/waits" && a.method === "POST")?.body).toEqual({ what: "glue", minutes: 15 });
  await waitFor(() => expect(started.mock.calls.length).toBeGreaterThan(2));
});
