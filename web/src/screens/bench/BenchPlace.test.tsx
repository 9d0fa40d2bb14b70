import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it, vi } from "vitest";
import type { BenchAnswer, BenchQuestion, WearAnswer } from "../../api/client";
import { Refused, serve } from "../../test-kit";

const tools = [
  {
    id: "r",
    name: "Steel rule",
    kind: "ruler",
    zero_offset_pct: 0,
    spreads: false,
    compares: false,
    default_links: 24,
    needs_count: false,
    zero_check_due: true,
  },
  {
    id: "d",
    name: "Drop-in pair",
    kind: "gauge-dropin",
    zero_offset_pct: 0,
    spreads: true,
    compares: true,
    needs_count: false,
    marks_pct: [0.5, 0.75],
  },
];

const bike = {
  tag: "B-0001-C",
  customer: { id: "o", name: "Imelda Harrowgate" },
  facts: { make: "Quernstone", drivetrain_kind: "derailleur", sprocket_count: 12 },
  archived: false,
  version: 1,
  added_at: "2026-05-04T12:00:00Z",
};

const wear: WearAnswer = {
  elongation_pct: 0.525,
  sigma_pct: 0.116,
  worst_pct: 0.525,
  uneven: false,
  play_per_joint_mm: 0.0667,
  limit_pct: 0.5,
  together_pct: 0.75,
  p_limit: 0.585,
  p_together: 0.03,
  verdict: "unsure",
  reasons: [{ code: "limit-from", at_pct: 0.5, bound_pct: 0.75, source: "school", school: "protect" }],
  other_schools: [{ school: "three-quarter", verdict: "ok" }],
};

/** A bench that understands millimetres alone: the page only shows what it is told. */
function answer(q: BenchQuestion): BenchAnswer {
  const entries = q.entries.map((e) => {
    const length_mm = Number(e.text);
    return Number.isNaN(length_mm)
      ? { place: e.place, fault: { path: "text", code: "not-a-reading", message: `“${e.text}” is not a reading.` } }
      : { place: e.place, understood: { length_mm, past_mm: length_mm - 304.8, elongation_pct: 0.525 } };
  });
  const good = entries.some((e) => "understood" in e);
  return {
    links: 24,
    drivetrain: {},
    missing: q.tag ? [] : ["kind", "sprockets"],
    entries,
    recordable: good && entries.every((e) => "understood" in e) && q.tag !== undefined,
    ...(good && q.tag
      ? {
          wear,
          settle: [{ instrument_id: "d", name: "Drop-in pair", sigma_pct: 0.03, settles: true }],
          settle_places: 5,
        }
      : {}),
  };
}

// The bench keeps its state beside the page, so each test takes a page of its own.
async function bench(tag?: string) {
  vi.resetModules();
  localStorage.clear();
  const { emptyBench } = await import("./state");
  if (tag) localStorage.setItem("pony.bench", JSON.stringify({ ...emptyBench(3), tag }));
  const [{ BenchPlace }, { show }] = await Promise.all([import("./BenchPlace"), import("../../test-kit")]);
  show(<BenchPlace />, "/measure");
}

const handlers = {
  "GET /instruments": () => tools,
  "GET /bikes/B-0001-C": () => bike,
  "POST /bench/read": (a: { body: unknown }) => answer(a.body as BenchQuestion),
};

it("goes from place to place with Enter, stays where something is wrong, and records once", async () => {
  const asked = serve({ ...handlers, "POST /bikes/B-0001-C/measurements": () => ({}) });
  await bench("B-0001-C");
  const user = userEvent.setup();
  const field = await screen.findByLabelText("Reading at place 1");
  expect(screen.getByText(/zero was never checked/)).toBeVisible();
  await user.type(field, "abc");
  await screen.findByText("“abc” is not a reading.");
  await user.keyboard("{Enter}");
  expect(screen.getByLabelText("Reading at place 1")).toHaveValue("abc");
  await user.clear(field);
  await user.type(field, "306.4");
  expect(await screen.findByText(/306.4 mm over 24 links, 1.6 mm past new: 0.5/)).toBeVisible();
  await user.keyboard("{Enter}");
  await user.type(screen.getByLabelText("Reading at place 2"), "306.2{Enter}");
  await user.type(screen.getByLabelText("Reading at place 3"), "306.5");
  expect(await screen.findByTestId("verdict")).toHaveTextContent("Can't tell yet");
  expect(screen.getByText(/Shop rule Protect/)).toBeVisible();
  expect(screen.getByText("What would settle it")).toBeVisible();
  expect(screen.getByText(/Or 5 places in all/)).toBeVisible();
  await user.click(screen.getByRole("button", { name: "Noise" }));
  await waitFor(() => expect(screen.getByRole("button", { name: /Record reading/ })).toBeEnabled());
  await user.click(screen.getByLabelText("Reading at place 3"));
  await user.keyboard("{Enter}{Enter}");
  await waitFor(() => expect(screen.getByLabelText("address")).toHaveTextContent("/bikes/B-0001-C"));
  const recorded = asked.filter((a) => a.path.endsWith("/measurements"));
  expect(recorded).toHaveLength(1);
  expect(recorded[0]?.key).toMatch(/^[0-9a-f]{32}$/);
  expect(recorded[0]?.body).toMatchObject({
    instrument_id: "r",
    entries: [
      { place: 1, text: "306.4" },
      { place: 2, text: "306.2" },
      { place: 3, text: "306.5" },
    ],
    findings: ["noise"],
  });
});

it("keeps what was typed when it is refused, and says why", async () => {
  serve({
    ...handlers,
    "POST /bikes/B-0001-C/measurements": () => new Refused(409, "bike-archived", "This bike is archived."),
  });
  await bench("B-0001-C");
  const user = userEvent.setup();
  await user.type(await screen.findByLabelText("Reading at place 1"), "306.4");
  await waitFor(() => expect(screen.getByRole("button", { name: /Record reading/ })).toBeEnabled());
  await user.click(screen.getByRole("button", { name: /Record reading/ }));
  expect(await screen.findByText("This bike is archived.")).toBeVisible();
  expect(screen.getByLabelText("Reading at place 1")).toHaveValue("306.4");
  expect(JSON.parse(localStorage.getItem("pony.bench") ?? "{}").entries[0].text).toBe("306.4");
});

it("asks a walk-in for its drivetrain and takes taps for a tool that compares", async () => {
  const asked = serve(handlers);
  await bench();
  const user = userEvent.setup();
  expect(await screen.findAllByText("Walk-in: no bike chosen")).not.toHaveLength(0);
  await user.click(screen.getByRole("button", { name: /Drop-in pair/ }));
  await user.click(screen.getAllByRole("button", { name: "Drops in" })[0] as HTMLElement);
  expect(await screen.findByText(/To judge it, say what gears it has/)).toBeVisible();
  await user.selectOptions(screen.getByLabelText("Gears"), "hub-gear");
  expect(screen.getByLabelText("Speeds (rear sprockets)")).toBeDisabled();
  await waitFor(() =>
    expect(asked.at(-1)?.body).toMatchObject({
      instrument_id: "d",
      entries: [{ place: 1, marks: [{ mark_pct: 0.5, drops_in: true }] }],
      drivetrain: { kind: "hub-gear" },
    }),
  );
});

it("takes up the tool that would settle it, and lays what was typed aside", async () => {
  serve(handlers);
  await bench("B-0001-C");
  const user = userEvent.setup();
  await user.type(await screen.findByLabelText("Reading at place 1"), "306.4");
  await user.click(await screen.findByRole("button", { name: /Measure with Drop-in pair/ }));
  expect(screen.getByRole("button", { name: /Drop-in pair/, pressed: true })).toBeVisible();
  await user.click(screen.getByRole("button", { name: "Put back what was cleared" }));
  expect(screen.getByLabelText("Reading at place 1")).toHaveValue("306.4");
});
