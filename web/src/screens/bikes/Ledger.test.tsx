import { fireEvent, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import type { LedgerEntry, Measurement } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { words } from "../jobs/job-kit";
import { Ledger } from "./Ledger";

const measurement: Measurement = {
  entry_id: "m1",
  taken_at: "2026-05-04T12:00:00Z",
  by: "Maud Kestle",
  state: "overdue",
  instrument: { name: "Steel rule", kind: "ruler", zero_offset_pct: 0, spreads: false },
  links: 24,
  readings: [{ place: 1, text: "12 1/8 in", length_mm: 307.975, elongation_pct: 1.0417 }],
  findings: ["hooked-teeth", "smells-of-fish"],
  note: "Second opinion wanted.",
  wear: {
    elongation_pct: 1.0417,
    sigma_pct: 0.116,
    limit_pct: 0.5,
    together_pct: 0.75,
    p_limit: 1,
    p_together: 0.994,
    verdict: "replace-together",
    reasons: [{ code: "finding-forces", finding: "hooked-teeth" }],
    other_schools: [],
  },
  strip: { links: 24, new_mm: 304.8, limit_mm: 306.3, together_mm: 307.1, places: [] },
};

const entry = (over: Partial<LedgerEntry>): LedgerEntry => ({
  id: "m1",
  number: 3,
  kind: "measurement",
  happened_at: "2026-05-04T12:00:00Z",
  written_at: "2026-05-04T12:09:00Z",
  by: "Maud Kestle",
  device: "stand 3",
  ...over,
});

const page = (...entries: LedgerEntry[]) => ({ entries });

it("opens an entry to all that was read, and strikes it out with a reason", async () => {
  let struck = false;
  const asked = serve({
    "GET /bikes/B-0001-C/ledger": () =>
      struck
        ? page(
            entry({
              id: "s1",
              number: 4,
              kind: "strike-out",
              by: "Mira Oxenholt",
              reason: "Wrong bike",
              strikes: "m1",
            }),
            entry({ measurement, struck: { at: "2026-05-04T13:00:00Z", by: "Mira Oxenholt", reason: "Wrong bike" } }),
          )
        : page(
            entry({ measurement }),
            entry({ id: "b1", number: 1, kind: "bike-changed", changed: ["chain_links", "motor"] }),
          ),
    "POST /ledger/m1/strike": ({ body }) => {
      const { reason } = body as { reason: string };
      struck = true;
      return entry({ id: "s1", kind: "strike-out", reason });
    },
  });
  const user = userEvent.setup();
  show(<Ledger tag="B-0001-C" />);
  expect(await screen.findByText("Facts changed: links in the chain, motor")).toBeVisible();
  const line = screen.getByRole("button", {
    name: /Wear 1.04 % ± 0.12, Steel rule, one place.*hooked teeth, smells of fish/,
  });
  await user.click(line);
  expect(line).toHaveAttribute("aria-expanded", "true");
  const row = screen.getByRole("row", { name: /12 1\/8 in/ });
  expect(within(row).getByText("1.04 %")).toBeVisible();
  expect(screen.getByText(/Note: Second opinion wanted/)).toBeVisible();
  expect(screen.getByText(/written/)).toBeVisible(); // it was written later than it happened

  await user.click(screen.getByRole("button", { name: "Void" }));
  const dialog = within(screen.getByRole("dialog", { name: /Void this reading/ }));
  await user.click(dialog.getByRole("button", { name: "Void" }));
  expect(await dialog.findByText(/^Say in a few words what was wrong/)).toBeVisible();
  await user.click(dialog.getByRole("button", { name: "Wrong bike" }));
  await user.click(dialog.getByRole("button", { name: "Void" }));
  expect(screen.queryByRole("dialog")).toBeNull();
  expect(struck, "it can still be taken back").toBe(false);
  fireEvent(window, new Event("pagehide")); // who leaves meant it
  expect(await screen.findByText("voided: Wrong bike", { exact: false })).toBeVisible();
  expect(screen.getByText("Voided an entry: Wrong bike")).toBeVisible();
  expect(asked.filter((a) => a.method === "POST").map((a) => a.body)).toEqual([{ reason: "Wrong bike" }]);
});

it("fetches earlier entries, and says when it cannot", async () => {
  const pages = [
    { ...page(entry({ measurement })), next: 3 },
    page(entry({ id: "b1", number: 1, kind: "bike-added" })),
  ];
  serve({ "GET /bikes/B-0001-C/ledger": () => pages.shift() });
  const user = userEvent.setup();
  const first = show(<Ledger tag="B-0001-C" />);
  await user.click(await screen.findByRole("button", { name: "Show earlier" }));
  expect(await screen.findByText("Came into care, tag given")).toBeVisible();
  expect(screen.queryByRole("button", { name: "Show earlier" })).toBeNull();
  first.unmount();

  serve({
    "GET /bikes/B-0001-C/ledger": () =>
      new Refused(500, "internal", "Something went wrong on our side.", { request_id: "QKB" }),
  });
  show(<Ledger tag="B-0001-C" />);
  expect(await screen.findByRole("alert")).toHaveTextContent(
    "Something went wrong on our side.Number for the log: QKB",
  );
});

it("tells of the jobs of a bike in a line each, and opens one from its entry", async () => {
  const at = (number: number, over: Partial<LedgerEntry>) => entry({ id: `j${number}`, number, job: "job-7", ...over });
  serve({
    "GET /job-words": () => words,
    "GET /bikes/B-0001-C/ledger": () =>
      page(
        at(9, { kind: "job-handed-back", route: "soak" }),
        at(8, { kind: "job-finding-resolved", what: "pads-worn", reason: "owner-told" }),
        at(7, {
          kind: "job-finding",
          finding: {
            id: "f",
            code: "pads-worn",
            severity: "stop",
            place: "rear",
            found_at: "2026-05-04T12:00:00Z",
            by: "Maud",
          },
        }),
        at(6, { kind: "job-note", note: "saddle is hers" }),
        at(5, { kind: "job-planned", route: "soak", reason: "there is time" }),
        at(4, { kind: "job-cancelled", reason: "took it home" }),
        at(3, { kind: "job-arrived" }),
      ),
  });
  show(<Ledger tag="B-0001-C" />);
  const lines = () => screen.getAllByTestId("entry").map((e) => e.textContent?.replace(/^.*Maud/, ""));
  await screen.findByText(/Found: Pads below their mark/);
  expect(lines()).toEqual([
    "Handed back after soak",
    "Pads below their mark: customer told, leaves unridden",
    "Found: Pads below their mark, rear holds the bike",
    "saddle is hers",
    "Planned: soak, there is time",
    "Job cancelled: took it home",
    "Booked in",
  ]);
  await userEvent.click(screen.getByText("Booked in"));
  expect(screen.getByRole("link", { name: "Open the job" }).getAttribute("href")).toBe("/jobs/job-7");
});
