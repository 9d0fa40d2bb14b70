import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { FindingRow, HandBack, Job } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { Beside } from "./Beside";
import { JobHead } from "./JobHead";
import { job, plan, words } from "./job-kit";
import { FindingDialog, NoteDialog, PartDialog } from "./Noting";

const found = (part: Partial<FindingRow>): FindingRow => ({
  id: "f1",
  code: "pads-worn",
  severity: "stop",
  found_at: "2026-03-03T10:00:00Z",
  by: "Mira Oxenholt",
  ...part,
});
const usual = { "GET /job-words": () => words, "GET /people": () => [] };

it("says what the customer wants, what the work comes to, and what was found, and settles what holds the bike", async () => {
  const settled: unknown[] = [];
  let refuse = true;
  serve({
    ...usual,
    "PUT /jobs/j1/findings/f1": ({ body }) => {
      settled.push(body);
      return refuse ? new Refused(403, "not-allowed", "A mechanic signs that the customer was told.") : job();
    },
  });
  show(
    <Beside
      job={job({
        intake: { ...job().intake, reports: "grinds" },
        comeback: { id: "j0", closed_at: "2026-02-25T10:00:00Z" },
        plan: { ...plan, reason: "there is time" },
        worked_min: 70,
        agreed: { price: 6000, at: "2026-03-02T09:10:00Z", by: "Odalys Finch" },
        ask_owner: true,
        bill: { ...plan.quote, total: 9400 },
        parts: [
          {
            entry_id: "e1",
            what: "Brake pads",
            count: 2,
            price: 1450,
            at: "2026-03-03T10:00:00Z",
            by: "Mira Oxenholt",
          },
        ],
        notes: [{ text: "rear wheel true", at: "2026-03-03T10:00:00Z", by: "Mira Oxenholt" }],
        findings: [
          found({ place: "rear" }),
          found({ id: "f2", code: "tyre-cut", severity: "soon" }),
          found({ id: "f3", code: "other", severity: "stop", note: "a rag in the spokes", resolution: "fixed" }),
        ],
      })}
    />,
  );
  const beside = (await screen.findByRole("region", { name: "This job" })).textContent ?? "";
  for (const said of [
    "“grinds”",
    "Customer asked for: by four",
    "Comes back: the job before",
    "Not as recommended: there is time",
    "€65.00 quoted, €60.00 agreed, €94.00 with parts",
    "More than was agreed: ask the customer.",
    "2 × Brake pads €29.00",
    "rear wheel true Mira",
  ])
    expect(beside).toContain(said);
  const rows = await waitFor(() => {
    const all = screen.getAllByTestId("finding");
    expect(all[0]?.textContent).toContain("Pads below their mark, rear");
    return all;
  });
  expect(rows[2]?.textContent).toBe("a rag in the spokes fixed");
  // What is only noted for soon holds nothing, so nobody signs for it.
  expect(within(rows[1] as HTMLElement).queryByRole("button", { name: /Customer told/ })).toBeNull();
  fireEvent.click(within(rows[0] as HTMLElement).getByRole("button", { name: /Customer told/ }));
  expect(await within(rows[0] as HTMLElement).findByText("A mechanic signs that the customer was told.")).toBeTruthy();
  refuse = false;
  fireEvent.click(within(rows[0] as HTMLElement).getByRole("button", { name: "Fixed" }));
  await waitFor(() => expect(settled).toEqual([{ resolution: "owner-told" }, { resolution: "fixed" }]));
});

it("says no code while the words of complaints and findings are still being asked for", async () => {
  let answer = (_: unknown) => {};
  serve({ ...usual, "GET /job-words": () => new Promise((resolve) => (answer = resolve)) });
  const one = job({ intake: { ...job().intake, complaints: ["gritty"] }, findings: [found({})] });
  show(
    <>
      <JobHead job={one} />
      <Beside job={one} />
    </>,
  );
  const said = () => document.body.textContent ?? "";
  await waitFor(() => expect(said()).toContain("Found so far"));
  expect(said()).not.toMatch(/gritty|pads-worn/);
  answer(words);
  await waitFor(() => expect(said()).toContain("Pads below their mark"));
  expect(said()).not.toMatch(/gritty|pads-worn/);
});

it("strikes a part out with a reason, once the time to take it back is over", async () => {
  const asked = serve({ ...usual, "POST /ledger/e1/strike": () => ({}) });
  show(
    <Beside
      job={job({
        parts: [{ entry_id: "e1", what: "Tyre", count: 1, at: "2026-03-03T10:00:00Z", by: "Mira Oxenholt" }],
      })}
    />,
  );
  fireEvent.click(await screen.findByRole("button", { name: "Void" }));
  const dialog = within(screen.getByRole("dialog"));
  fireEvent.click(dialog.getByRole("button", { name: "Void" }));
  expect(await dialog.findByText(/^Say in a few words what was wrong/)).toBeTruthy();
  fireEvent.change(dialog.getByLabelText("What was wrong"), { target: { value: " the other bike's " } });
  fireEvent.click(dialog.getByRole("button", { name: "Void" }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  const strikes = () => asked.filter((a) => a.method === "POST").map((s) => s.body);
  expect(strikes()).toEqual([]);
  fireEvent(window, new Event("pagehide"));
  await waitFor(() => expect(strikes()).toEqual([{ reason: "the other bike's" }]));
});

it("names all that keeps a bike here, asks for a second signature, and for the customer's word on the price", async () => {
  const sent: HandBack[] = [];
  serve({
    ...usual,
    "GET /people": () => [
      { id: "p1", name: "Mira Oxenholt", role: "mechanic" },
      { id: "p2", name: "Tobiah Marsh", role: "mechanic" },
      { id: "p3", name: "Posy Peake", role: "apprentice" },
    ],
    "POST /jobs/j1/hand-back": ({ body }) => {
      sent.push(body as HandBack);
      if (sent.length === 1)
        return new Refused(409, "second-signature", "A second person signs.", {
          fields: [{ path: "second_pin", code: "wrong", message: "That is not their PIN." }],
        });
      if (sent.length === 2) return new Refused(409, "ask-owner", "The bill goes beyond what was agreed.");
      return job({ state: "handed-back" });
    },
  });
  const holds: Job["holds"] = [
    { code: "check-open", what: "brakes-test", says: "Test both brakes" },
    { code: "finding", what: "f1", says: "Pads below their mark" },
    { code: "wait-runs", what: "w1", says: "bare-steel" },
    ...["Oil", "Wipe it off"].map((says) => ({ code: "step-open" as const, what: says, says })),
  ];
  show(<Beside job={job({ holds, needs_second: true })} />);
  const closed = await screen.findByTestId("hand-back");
  expect(closed.textContent).toBe("Hand back · 1 check open");
  fireEvent.click(closed);
  const dialog = within(screen.getByRole("dialog"));
  const open = dialog.getByTestId("holds").textContent ?? "";
  for (const said of [
    "Test both brakessafety check",
    "Pads below their markfound",
    "bare: lubricatestill waits",
    "2 steps: oil, wipe it off",
  ])
    expect(open).toContain(said);
  const who = dialog.getByLabelText("Who signs") as HTMLSelectElement;
  await waitFor(() => expect([...who.options].map((o) => o.text)).toEqual(["Choose", "Tobiah Marsh"]));
  fireEvent.change(who, { target: { value: "p2" } });
  fireEvent.change(dialog.getByLabelText("Their PIN"), { target: { value: "1111" } });
  fireEvent.click(dialog.getByRole("button", { name: "Hand back" }));
  expect(await dialog.findByText("That is not their PIN.")).toBeTruthy();
  const pin = dialog.getByLabelText("Their PIN") as HTMLInputElement;
  expect(pin.value).toBe(""); // no PIN stays on the screen
  fireEvent.change(pin, { target: { value: "3141" } });
  fireEvent.click(dialog.getByRole("button", { name: "Hand back" }));
  fireEvent.click(await dialog.findByLabelText("The customer was asked and agrees to the price"));
  fireEvent.change(pin, { target: { value: "3141" } });
  fireEvent.click(dialog.getByRole("button", { name: "Hand back" }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  expect(sent[2]).toEqual({ version: 2, second_id: "p2", second_pin: "3141", asked: true });
});

it("cancels a job with a reason, and not without", async () => {
  const asked = serve({
    ...usual,
    "POST /jobs/j1/cancel": ({ body }) =>
      (body as { reason: string }).reason === ""
        ? new Refused(422, "invalid-input", "Say why.", {
            fields: [{ path: "reason", code: "missing", message: "Say why." }],
          })
        : job({ state: "cancelled" }),
  });
  show(<Beside job={job()} />);
  fireEvent.click(await screen.findByRole("button", { name: "Cancel the job" }));
  const dialog = within(screen.getByRole("dialog"));
  fireEvent.click(dialog.getByRole("button", { name: "Cancel the job" }));
  expect(await dialog.findByText("Say why.")).toBeTruthy();
  fireEvent.change(dialog.getByLabelText("Why"), { target: { value: "taken home" } });
  fireEvent.click(dialog.getByRole("button", { name: "Cancel the job" }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  const sent = asked.filter((a) => a.path === "/jobs/j1/cancel").map((a) => a.body);
  expect(sent).toEqual([
    { version: 2, reason: "" },
    { version: 2, reason: "taken home" },
  ]);
});

it("notes a finding as bad as it is, and lets nobody play down what holds the bike", async () => {
  const asked = serve({ ...usual, "POST /jobs/j1/findings": () => job() });
  let closed = 0;
  show(<FindingDialog job={job()} close={() => closed++} />);
  await screen.findByRole("option", { name: "Tyre cut or worn" });
  const kind = screen.getByLabelText("Fault found");
  fireEvent.change(kind, { target: { value: "tyre-cut" } });
  fireEvent.click(screen.getByRole("button", { name: /^Note$|Noted/ }));
  fireEvent.change(kind, { target: { value: "pads-worn" } });
  expect(screen.getByText(/^Holds the bike until it is fixed/)).toBeTruthy();
  expect(screen.queryByRole("group", { name: "How bad" })).toBeNull();
  fireEvent.change(screen.getByLabelText("Where"), { target: { value: " rear " } });
  fireEvent.click(screen.getByRole("button", { name: "Note it" }));
  await waitFor(() => expect(closed).toBe(1));
  expect(asked.find((a) => a.method === "POST")?.body).toEqual({
    code: "pads-worn",
    place: "rear",
  });
});

it("writes a note down, and a part with a price that is one", async () => {
  const asked = serve({
    ...usual,
    "POST /jobs/j1/notes": () => new Refused(500, "internal", "It broke."),
    "POST /jobs/j1/parts": () => job(),
  });
  const page = show(<NoteDialog job={job()} close={() => {}} />);
  fireEvent.change(screen.getByLabelText("Note", { selector: "textarea" }), { target: { value: "true the wheel" } });
  fireEvent.click(screen.getByRole("button", { name: "Write it down" }));
  expect(await screen.findByText("It broke.")).toBeTruthy();
  expect((screen.getByLabelText("Note", { selector: "textarea" }) as HTMLTextAreaElement).value).toBe("true the wheel");
  page.unmount();

  let closed = 0;
  show(<PartDialog job={job()} close={() => closed++} />);
  fireEvent.click(screen.getByRole("button", { name: "Gear cable" }));
  fireEvent.change(screen.getByLabelText("How many"), { target: { value: "2" } });
  fireEvent.change(screen.getByLabelText("Price of one"), { target: { value: "cheap" } });
  fireEvent.click(screen.getByRole("button", { name: "Note the part" }));
  expect(screen.getByText(/is no price: write one such as 45.50/)).toBeTruthy();
  expect(asked.some((a) => a.path.endsWith("/parts"))).toBe(false);
  fireEvent.change(screen.getByLabelText("Price of one"), { target: { value: "3.20" } });
  fireEvent.click(screen.getByRole("button", { name: "Note the part" }));
  await waitFor(() => expect(closed).toBe(1));
  expect(asked.find((a) => a.path.endsWith("/parts"))?.body).toEqual({ what: "Gear cable", count: 2, price: 320 });
});
