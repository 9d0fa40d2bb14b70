import { fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, expect, it } from "vitest";
import type { Bike, SizerAnswer, SizerQuestion } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { SizerPlace } from "./SizerPlace";

const bike: Bike = {
  tag: "B-0001-A",
  customer: { id: "o", name: "Gannet Stack" },
  facts: {
    drivetrain_kind: "derailleur",
    ring_teeth: [32],
    sprocket_teeth: [10, 52],
    chainstay_mm: 440,
    chainstay_growth_mm: 8,
  },
  archived: false,
  version: 7,
  added_at: "2026-05-04T12:00:00Z",
};

const nothing: SizerAnswer = { missing: [], faults: [], house: "wrap" };

const length: NonNullable<SizerAnswer["length"]> = {
  keep_links: 118,
  method: "wrap",
  remove_links: null,
  short_by_links: 0,
  methods: [
    { method: "wrap", links: 118 },
    { method: "formula", links: 116 },
  ],
  geometry_links: 112.9,
  capacity_needed: 42,
  warnings: [{ code: "over-capacity" }],
};

const open = (answers: Parameters<typeof serve>[0], at: string) => {
  const asked = serve({ "GET /bikes/B-0001-A": () => bike, ...answers });
  show(
    <Routes>
      <Route path="/chain-length" element={<SizerPlace />} />
    </Routes>,
    at,
  );
  return asked;
};

beforeEach(() => localStorage.clear());

it("says what it must know, and puts each slip at its own field", async () => {
  open(
    {
      "POST /sizer": ({ body }) => {
        const q = body as SizerQuestion;
        return q.chainstay_mm === 4
          ? {
              ...nothing,
              faults: [{ path: "chainstay_mm", code: "out-of-range", message: "4: A chainstay is 200 to 1500 mm." }],
            }
          : { ...nothing, missing: ["kind", "rings"] };
      },
    },
    "/chain-length",
  );
  expect(await screen.findByText("Say what gears it has, the chainring teeth.")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Chainrings"), { target: { value: "big" } });
  expect(screen.getByText(/“big” is not a list of teeth/)).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Chainstay"), { target: { value: "4" } });
  expect(await screen.findByText("4: A chainstay is 200 to 1500 mm.")).toBeTruthy();
});

it("answers from a bike's record, with what to keep off, and saves back what was typed", async () => {
  let refuse = true;
  const asked = open(
    {
      "POST /sizer": ({ body }) => {
        const box = (body as SizerQuestion).box_links;
        return {
          ...nothing,
          overlap: 4,
          cut: { links: 117, last_inner: true },
          length: { ...length, ...(box ? { remove_links: 0, short_by_links: 118 - box } : {}) },
        };
      },
      "PUT /bikes/B-0001-A": () =>
        refuse
          ? new Refused(409, "changed-meanwhile", "Somebody else changed this meanwhile. Look at both and choose.")
          : bike,
    },
    "/chain-length?tag=B-0001-A",
  );
  expect(await screen.findByText("Keep 118")).toBeTruthy();
  expect(screen.getByText(/Begin at an inner link, count 117 and press out the pin/)).toBeTruthy();
  expect(screen.getByText(/makers often want an overlap of 2: 116/)).toBeTruthy(); // with rear suspension
  expect(screen.getByText(/The cage cannot take up the slack/)).toBeTruthy();
  expect(screen.getByText("How long the cage is, is not known.")).toBeTruthy();
  expect(screen.getByText("(−2)")).toBeTruthy();
  expect(screen.queryByRole("button", { name: "Save back to the bike" })).toBeNull(); // nothing differs yet

  fireEvent.change(screen.getByLabelText("In the box"), { target: { value: "114" } });
  expect(await screen.findByText("The box is 4 short: buy one of 118 or more")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "long 93" }));
  fireEvent.click(await screen.findByRole("button", { name: "Save back to the bike" }));
  expect(await screen.findByText(/Somebody else changed this meanwhile/)).toBeTruthy();
  refuse = false;
  fireEvent.click(screen.getByRole("button", { name: "Save back to the bike" }));
  await waitFor(() => expect(asked.filter((a) => a.method === "PUT")).toHaveLength(2));
  expect(asked.find((a) => a.method === "PUT")?.body).toEqual({
    version: 7,
    customer_id: "o",
    facts: { ...bike.facts, cage_mm: 93 },
  });
});

it("lists what slots allow, and says plainly how soon a pair without a tensioner is too loose", async () => {
  const single = {
    ...length,
    method: "geometry" as const,
    warnings: [],
    methods: [{ method: "geometry" as const, links: 96 }],
  };
  open(
    {
      "POST /sizer": ({ body }) =>
        (body as SizerQuestion).slot_mm
          ? {
              ...nothing,
              length: single,
              limit_pct: 0.75,
              slots: {
                options: [{ links: 96, chainstay_mm: 400.05, growth_mm: 4.57, reaches_limit: false, warnings: [] }],
                recommended_links: 96,
              },
            }
          : {
              ...nothing,
              length: single,
              bound_mm: 25,
              tensioner: !(body as SizerQuestion).fixed && !(body as SizerQuestion).coaster,
              pairs: {
                pairs: [
                  {
                    ring: 46,
                    sprocket: 18,
                    links: 98,
                    spare_mm: 0.1,
                    ratio: 2.556,
                    ratio_change_pct: -5.5,
                    play_new_mm: 9,
                    wear_at_bound_pct: 0.014,
                  },
                ],
              },
            },
    },
    "/chain-length",
  );
  fireEvent.change(await screen.findByLabelText("Gears"), { target: { value: "single-speed" } });
  expect(await screen.findByText(/a tensioner, an eccentric or a sliding axle is the normal answer/)).toBeTruthy();
  expect(screen.getByText("46 × 18")).toBeTruthy();
  expect(screen.getByText("0.014 %")).toBeTruthy();
  expect(screen.getByText(/a chain that comes off throws the rider/)).toBeTruthy();
  fireEvent.click(screen.getByLabelText("Coaster brake"));
  expect(await screen.findByText(/No tensioner with a coaster brake: the rider pushes back/)).toBeTruthy();
  fireEvent.click(screen.getByLabelText("Fixed gear"));
  expect(await screen.findByText(/No tensioner on a fixed gear/)).toBeTruthy();
  expect(screen.queryByText(/a tensioner,/)).toBeNull();
  fireEvent.change(screen.getByLabelText("Slots"), { target: { value: "8" } });
  expect(await screen.findByText("96 links")).toBeTruthy();
  expect(screen.getByText(/the slots end before that/)).toBeTruthy();
});
