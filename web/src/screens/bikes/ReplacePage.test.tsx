import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, expect, it } from "vitest";
import type { Bike, Replacement, ReplacementPlan, SizerQuestion } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { ReplacePage } from "./ReplacePage";

const bike: Bike = {
  tag: "B-0001-A",
  customer: { id: "o", name: "Imelda Harrowgate" },
  facts: { make: "Quernstone", drivetrain_kind: "hub-gear", sprocket_count: 1, ring_teeth: [39], sprocket_teeth: [18] },
  archived: false,
  version: 1,
  added_at: "2026-05-04T12:00:00Z",
};

const shelf = (id: string, kind: "chain" | "joining-link", name: string, quantity: number) => ({
  id,
  kind,
  facts: { name, sprockets: 1, quantity, low_mark: 1, ...(kind === "chain" ? { box_links: 122 } : {}) },
  low: false,
  retired: false,
  version: 1,
});

const plan: ReplacementPlan = {
  verdict: "replace-together",
  advice: { chain: true, sprockets: true, ride_test: false, look: true },
  sprockets: 1,
  grease: "keep-inside",
  chains: [shelf("c1", "chain", "Wide, box of 122", 2)],
  links: [],
  kept: [
    {
      part_id: "k1",
      what: "waxed one",
      links: 112,
      state: "kept",
      fitted_at: "2026-01-04T12:00:00Z",
      times: 1,
      hard_km: 900,
    },
  ],
  old_link: { part_id: "l1", uses: 1, openings: 0, spent: "new-each-time" },
  link_school: "new-each-time",
  missing: ["no-joining-link"],
  derailleur: false,
  later: [],
  checks: ["joint-seated", "joint-loaded", "no-stiff-link", "tension-set", "axle-tight", "runs-free", "brakes-tested"],
};

const length = {
  keep_links: 112,
  method: "geometry",
  remove_links: 10,
  short_by_links: 0,
  methods: [],
  geometry_links: 111.2,
  capacity_needed: 0,
  warnings: [],
};

const open = (answers: Parameters<typeof serve>[0]) => {
  const asked = serve({
    "GET /bikes/B-0001-A": () => bike,
    "GET /bikes/B-0001-A/replacement": () => plan,
    "POST /sizer": ({ body }) => ({
      missing: [],
      faults: [],
      house: "wrap",
      length,
      cut:
        (body as SizerQuestion).joint === "joining-pin"
          ? { links: 112, last_inner: false }
          : { links: 111, last_inner: true },
    }),
    ...answers,
  });
  const page = show(
    <Routes>
      <Route path="/bikes/:tag/replace" element={<ReplacePage />} />
      <Route path="/bikes/:tag" element={<p>the bike</p>} />
    </Routes>,
    "/bikes/B-0001-A/replace",
  );
  return { asked, page };
};

beforeEach(() => localStorage.clear());

it("says what goes together, what the shelf has not, and where the joint asks to cut", async () => {
  open({});
  expect(await screen.findByText("Chain and cassette go together.")).toBeTruthy();
  expect(
    screen.getByText(/No single-speed joining link is on the shelf: have one before the chain is opened/),
  ).toBeTruthy();
  expect(screen.getByLabelText("Which cassette")).toBeTruthy(); // they are in the job already
  expect(await screen.findByText(/count 111 and press out the pin/)).toBeTruthy();
  expect(screen.getByText(/Keep the grease inside the new chain/)).toBeTruthy();
  expect(screen.getByText("Joining link seated")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "joining pin" }));
  expect(await screen.findByText(/count 112 and press out the pin/)).toBeTruthy();
  expect(screen.queryByText("Joining link seated")).toBeNull(); // a pin has no link to seat
  expect(screen.getByText(/a chain that opens throws the rider/)).toBeTruthy(); // but it is load-tested
});

it("keeps what was done over a reload, shows each refusal at its place, and notes all of it", async () => {
  let refuse = true;
  const answers = {
    "POST /bikes/B-0001-A/replacement": () =>
      refuse
        ? new Refused(422, "invalid-input", "Something entered is not right.", {
            fields: [
              {
                path: "joining_link.reuse",
                code: "link-spent",
                message: "The house takes a new joining link each time.",
              },
              { path: "checks", code: "checks-open", message: "Not checked yet: brakes-tested." },
            ],
          })
        : { id: "e", number: 1, kind: "replacement", happened_at: "", written_at: "", by: "", device: "" },
  };
  const { page } = open(answers);
  fireEvent.click(await screen.findByRole("button", { name: "Note the replacement" }));
  expect(await screen.findByText("Count the links of the chain as it is closed.")).toBeTruthy();
  fireEvent.click(await screen.findByRole("button", { name: "Take 112" }));
  fireEvent.click(screen.getByLabelText(/The one it had/));
  fireEvent.click(screen.getByLabelText(/Looked at: no wear/));
  for (const check of plan.checks.slice(0, 6))
    fireEvent.click(document.querySelector(`input[name=${check}]`) as Element);
  fireEvent.click(screen.getByRole("button", { name: "Note the replacement" }));
  expect(await screen.findByText("The house takes a new joining link each time.")).toBeTruthy();
  expect(screen.getByText(/Not every check is made yet/)).toBeTruthy();

  page.unmount();
  const { asked } = open(answers);
  refuse = false;
  const links = within(await screen.findByRole("group", { name: "Closed with" }));
  fireEvent.click(links.getByLabelText(/Another, not from the shelf/));
  fireEvent.change(screen.getByLabelText("Which"), { target: { value: "found in a drawer" } });
  fireEvent.click(document.querySelector("input[name=brakes-tested]") as Element);
  fireEvent.change(screen.getByLabelText("Which cassette"), { target: { value: "18 teeth" } });
  fireEvent.click(screen.getByRole("button", { name: "Note the replacement" }));
  await waitFor(() => expect(screen.getByText("the bike")).toBeTruthy());
  const sent = asked.find((a) => a.method === "POST" && a.path.endsWith("/replacement"))?.body as Replacement;
  expect(sent).toMatchObject({
    chain: { stock_item_id: "c1", links: 112, box_links: 122, joint: "joining-link" },
    joining_link: { what: "found in a drawer" },
    old_chain: "scrapped",
    sprockets: "18 teeth",
    checks: plan.checks,
  });
  expect(sent.rings).toBeUndefined();
});

it("puts a kept chain on again without sizing it", async () => {
  const { asked } = open({
    "POST /bikes/B-0001-A/replacement": () => ({
      id: "e",
      number: 1,
      kind: "replacement",
      happened_at: "",
      written_at: "",
      by: "",
      device: "",
    }),
  });
  fireEvent.click(await screen.findByLabelText(/Kept: waxed one/));
  expect(screen.getByText(/links already/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Note the replacement" }));
  await waitFor(() => expect(screen.getByText("the bike")).toBeTruthy());
  const sent = asked.find((a) => a.method === "POST" && a.path.endsWith("/replacement"))?.body as Replacement;
  expect(sent.chain).toEqual({ kept_part_id: "k1", links: 112, joint: "joining-link" });
});
