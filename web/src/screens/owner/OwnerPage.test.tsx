import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { expect, it } from "vitest";
import type { OwnerPage as Page } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { OwnerPage } from "./OwnerPage";

const page = (part: Partial<Page> = {}): Page => ({
  shop: "Tidewrack Lane",
  day: "2026-03-03",
  until: "2099-01-01T00:00:00Z",
  tag: "B-0077-R",
  locale: "en-GB",
  time_zone: "UTC",
  now: new Date().toISOString(),
  bike: "your Brinewell Coble oyster",
  distance_unit: "km",
  measured: false,
  next: [],
  done: [],
  in_workshop: false,
  reportable: ["soaked-ride", "squeak"],
  told: 0,
  ...part,
});

const open = () =>
  show(
    <Routes>
      <Route path="/o/:token" element={<OwnerPage token="secret" />} />
    </Routes>,
    "/o/secret",
  );

const part = (name: string) => within(screen.getByRole("region", { name }));

it("tells an owner in plain words how worn the chain is, what comes next and what was done", async () => {
  serve({
    "GET /owner-page/secret": () =>
      page({
        chain: {
          state: "soon",
          verdict: "watch",
          elongation_pct: 0.41,
          limit_pct: 0.5,
          taken_at: "2026-03-01T09:00:00Z",
        },
        left_km: { low: 0, mid: 812, high: 2400 },
        next: [
          { what: "the brakes should be looked at", state: "overdue", due_on: "2026-02-20" },
          { what: "it will need a wash", state: "fresh", due_on: "2026-04-14" },
          { what: "the chain will be worn and need replacing", state: "soon" },
        ],
        done: [
          {
            closed_at: "2026-02-02T15:00:00Z",
            route: "soak",
            told: ["Chain stripped to bare metal."],
            parts: ["Brake pads"],
            lubricant_next: "immersion-wax",
          },
        ],
        in_workshop: true,
        lubricant: "wet-oil",
      }),
  });
  open();
  expect((await screen.findByTestId("worn")).textContent).toBe(
    "When it was measured, the chain was wearing: it is being watched.",
  );
  expect(screen.getByText("It is in the workshop now.")).toBeTruthy();
  expect(part("How worn it is").getByText(/it could be at its limit now\. A guess from how it is kept\./)).toBeTruthy();
  const next = part("What comes next")
    .getAllByRole("listitem")
    .map((li) => li.textContent);
  expect(next[0]).toMatch(/brakes should be looked at.*now$/);
  expect(next[1]).toMatch(/will need a wash.*about 14 Apr/);
  expect(next[2], "a day that nobody knows is not told").toMatch(/need replacing$/);
  const done = part("What was done");
  expect(done.getByText(/02 Feb/)).toBeTruthy();
  expect(done.getByText("Parts: Brake pads.")).toBeTruthy();
  // What is said about care goes by what is on the chain now, which was waxed.
  expect(part("After each ride").getByText(/wax protects little against rust/)).toBeTruthy();
});

it("says what is not known yet, and what an address that was withdrawn opens", async () => {
  serve({ "GET /owner-page/secret": () => page() });
  const shown = open();
  expect((await screen.findByTestId("worn")).textContent).toBe("The chain was not measured yet.");
  expect(part("What comes next").getByText("Nothing is planned.")).toBeTruthy();
  expect(part("What was done").getByText("No visit is on record yet.")).toBeTruthy();
  shown.unmount();

  serve({
    "GET /owner-page/secret": () =>
      new Refused(404, "link-not-found", "This address was withdrawn. Ask the workshop for the new one."),
  });
  open();
  expect(await screen.findByText(/This address was withdrawn/)).toBeTruthy();
  expect(screen.queryByRole("button"), "trying again would not help").toBeNull();
});

it("takes what an owner tells, names what is wrong in it, and loses nothing when it does not get through", async () => {
  let answer: () => unknown = () => page({ told: 1 });
  const asked = serve({ "GET /owner-page/secret": () => page(), "POST /owner-page/secret": () => answer() });
  open();
  const km = (await screen.findByLabelText("The odometer shows")) as HTMLInputElement;
  const note = screen.getByLabelText("In your words") as HTMLTextAreaElement;
  const tell = () => fireEvent.submit(screen.getByRole("form", { name: "Tell the workshop" }));
  const told = () => asked.filter((a) => a.method === "POST").map((a) => a.body);

  for (const wrong of ["far", "4.210"]) {
    fireEvent.change(km, { target: { value: wrong } });
    tell();
  }
  expect(await screen.findByText("Type whole kilometres, such as 5980.")).toBeTruthy();
  expect(told(), "what is no number is not sent").toEqual([]);

  fireEvent.change(km, { target: { value: "4 210,5" } });
  fireEvent.change(note, { target: { value: "  Over the causeway at the wrong tide. " } });
  fireEvent.click(screen.getByRole("button", { name: "It squeaks" }));
  fireEvent.click(screen.getByRole("button", { name: "Heavy rain ride" }));
  answer = () => {
    throw new TypeError("network");
  };
  tell();
  expect(await screen.findByText(/There is no connection/)).toBeTruthy();
  expect([km.value, note.value.trim()]).toEqual(["4 210,5", "Over the causeway at the wrong tide."]);

  answer = () =>
    new Refused(422, "invalid-input", "Not right.", {
      fields: [{ path: "km", code: "out-of-range", message: "an odometer shows no more than 1000000 km." }],
    });
  expect(
    await screen.findByText("An odometer shows no more than 1000000 km.", {}, { timeout: 3000 }),
    "it was sent by itself",
  ).toBeTruthy();

  answer = () => page({ told: 1 });
  tell();
  expect(await screen.findByText(/Told\. The workshop looks at it/)).toBeTruthy();
  expect(told().at(-1)).toEqual({ km: 4210.5, event: "soaked-ride", note: "Over the causeway at the wrong tide." });
  await waitFor(() => expect([km.value, note.value]).toEqual(["", ""]));
  expect(screen.getByRole("button", { name: "Heavy rain ride" }).getAttribute("aria-pressed")).toBe("false");
});
