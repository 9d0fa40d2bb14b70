import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Bike, LedgerEntry, WearTrack } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { Ledger } from "./Ledger";
import { Parts } from "./Parts";

const bike: Bike = {
  tag: "B-0001-A",
  customer: { id: "o", name: "Merrick Pasco-Lund" },
  facts: { sprocket_count: 11 },
  archived: false,
  version: 1,
  added_at: "2026-05-04T12:00:00Z",
};

const chain = { links: 112, sprockets: 11, fitted_at: "2026-03-04T12:00:00Z" };
const track: WearTrack = {
  now_hard_km: 4000,
  hard_per_km: 1.4,
  rate_hard_km_per_day: 14,
  chains: [
    {
      entry_id: "1",
      part_id: "a",
      fitted_at: "2026-01-04T12:00:00Z",
      fitted_by: "Maud Kestle",
      from_hard_km: 0,
      before_hard_km: 0,
      hard_km: 1500,
      odometer_km: 2004,
    },
    {
      entry_id: "2",
      part_id: "b",
      fitted_at: "2026-03-04T12:00:00Z",
      fitted_by: "Mira Oxenholt",
      from_hard_km: 1500,
      before_hard_km: 0,
      hard_km: 2500,
    },
  ],
  parts: {
    chains: [
      {
        ...chain,
        part_id: "a",
        what: "waxed one",
        state: "kept",
        times: 2,
        hard_km: 1500,
        fitted_at: "2026-01-04T12:00:00Z",
      },
      {
        ...chain,
        part_id: "b",
        what: "eleven-speed",
        state: "on",
        times: 1,
        hard_km: 2500,
        direction: "arrow forward",
      },
    ],
    joining_link: { part_id: "l", what: "from its card", uses: 2, openings: 1, stated_uses: 3 },
    sets: [
      { part_id: "s", part: "sprockets", what: "11–34", fitted_at: "2026-01-04T12:00:00Z", chains: 2, hard_km: 4000 },
    ],
  },
  segments: [],
  readings: [],
  both_sorts: false,
  missing: [],
};

it("lists each part with its own distance and its counts", async () => {
  serve({ "GET /bikes/B-0001-A/wear-track": () => track });
  show(<Parts bike={bike} />);
  const rows = within(await screen.findByRole("region", { name: "Parts" })).getAllByRole("listitem");
  const said = rows.map((r) => r.textContent ?? "");
  expect(said[0]).toContain("Chain now on, eleven-speed, 112 linksmarked: arrow forward");
  expect(said[0]).toContain("2,500wear km");
  expect(said[1]).toContain("Chain kept, waxed one");
  expect(said[1]).toContain("Maud Kestle at 2,004 km, on 2 times");
  expect(said[2]).toBe("Joining link, from its cardopened once, its maker states 3 uses");
  expect(said[3]).toContain("Cassette, 11–34");
  expect(said[3]).toContain("2 chains so far");
});

it("counts an opening, and shows why a spent link is refused", async () => {
  const shelf = (id: string, sprockets: number) => ({
    id,
    kind: "joining-link",
    facts: { name: `For ${sprockets}`, sprockets, quantity: 4, low_mark: 1 },
    low: false,
    retired: false,
    version: 1,
  });
  let refuse = true;
  const asked = serve({
    "GET /bikes/B-0001-A/wear-track": () => track,
    "GET /stock": () => [shelf("x", 11), shelf("y", 12)],
    "POST /bikes/B-0001-A/chain/opened": () =>
      refuse
        ? new Refused(422, "invalid-input", "no", {
            fields: [{ path: "joining_link.reuse", code: "link-spent", message: "This joining link is spent." }],
          })
        : { id: "e" },
  });
  show(<Parts bike={bike} />);
  fireEvent.click(await screen.findByRole("button", { name: "Chain was opened" }));
  expect(await screen.findByLabelText(/For 11/)).toBeTruthy();
  expect(screen.queryByLabelText(/For 12/)).toBeNull(); // of another width
  expect(screen.getByText(/a chain that opens throws the rider/)).toBeTruthy();
  fireEvent.change(screen.getByLabelText("What for"), { target: { value: "soak" } });
  fireEvent.click(screen.getByRole("button", { name: "Note it" }));
  expect(await screen.findByText("This joining link is spent.")).toBeTruthy();
  refuse = false;
  fireEvent.click(screen.getByLabelText(/For 11/));
  fireEvent.click(screen.getByRole("button", { name: "Note it" }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  expect(asked.filter((a) => a.method === "POST").map((a) => a.body)).toEqual([
    { why: "soak", joining_link: { reuse: true, sound: false } },
    { why: "soak", joining_link: { stock_item_id: "x" } },
  ]);
});

it("tells in the history what was fitted, opened and checked", async () => {
  const entry = (number: number, kind: LedgerEntry["kind"], more: Partial<LedgerEntry>): LedgerEntry => ({
    id: String(number),
    number,
    kind,
    happened_at: "2026-03-04T12:00:00Z",
    written_at: "2026-03-04T12:00:00Z",
    by: "Mira Oxenholt",
    device: "stand 1",
    ...more,
  });
  serve({
    "GET /bikes/B-0001-A/ledger": () => ({
      entries: [
        entry(5, "replacement", {
          checks: ["joint-loaded", "brakes-tested"],
          ride_test: "no-skip",
          parts: ["rings"],
          note: "Rider warned",
        }),
        entry(4, "part-fitted", { part: "rings", what: "34/50" }),
        entry(3, "chain-opened", { why: "soak", joining_link: { again: true } }),
        entry(2, "chain-fitted", { what: "eleven-speed", links: 112, joining_link: { what: "from its card" } }),
        entry(1, "odometer", { odometer_km: 2004, mix: { fair: 0, dusty: 0, wet: 0.6, mud: 0, salt: 0.4 } }),
      ],
    }),
  });
  show(<Ledger tag="B-0001-A" />);
  const said = (await screen.findAllByTestId("entry")).map((e) => e.textContent ?? "");
  expect(said[0]).toContain("Chain replaced, with chainrings; 2 checks made, ride-tested: nothing skips. Rider warned");
  expect(said[1]).toContain("Chainrings fitted: 34/50");
  expect(said[2]).toContain("Chain opened (soak), closed with the same joining link");
  expect(said[3]).toContain("Chain fitted: eleven-speed, 112 links, closed with from its card");
  expect(said[4]).toContain("Odometer 2,004 km, since then 60 % wet, 40 % salt");
  fireEvent.click(screen.getByText(/Chain replaced/));
  expect(screen.getByText("Checked: joining link load-tested, brakes tested.")).toBeTruthy();
});
