import { fireEvent, screen, waitFor } from "@testing-library/react";
import { Link, Route, Routes } from "react-router";
import { beforeEach, expect, it } from "vitest";
import type { Rules, RulesView } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { fromDraft, judgedBy, toDraft } from "./draft";
import { findSetting, type PartName, partNames } from "./parts";
import { RulesPlace } from "./RulesPlace";
import { defaults, rules } from "./rules-kit";

const view = (part: Partial<RulesView> = {}): RulesView => ({
  rules,
  version: 3,
  defaults,
  schools: [
    { school: "protect", classes: [{ class: "narrow-chain", limit_pct: 0.5, together_pct: 0.75 }] },
    { school: "half", classes: [{ class: "narrow-chain", limit_pct: 0.5, together_pct: 0.75 }] },
  ],
  ...part,
});

const none = { judged: 5, refused: 0, total: 0, changed: [] };
const counts = { overdue: 0, due: 1, soon: 0, fresh: 4 };
const dueStays = { now: counts, would: counts, of: 5 };
const one = {
  judged: 5,
  refused: 1,
  total: 1,
  changed: [
    {
      tag: "B-0001-A",
      customer: { id: "o", name: "Ottoline Brack" },
      make: "Brinewell",
      model: "Coble",
      colour: "",
      from: "ok",
      to: "replace",
      limit_pct: 0.5,
    },
  ],
};

beforeEach(() => localStorage.clear());

/** A part of the settings at its address, with the way to another. */
const open = (part: PartName) =>
  show(
    <Routes>
      <Route
        path="/settings/:part"
        element={
          <>
            <RulesPlace />
            <nav>
              {partNames.map((n) => (
                <Link key={n} to={`/settings/${n}`}>
                  to {n}
                </Link>
              ))}
            </nav>
          </>
        }
      />
    </Routes>,
    `/settings/${part}`,
  );
const turnTo = (part: PartName) => fireEvent.click(screen.getByRole("link", { name: `to ${part}` }));

it("reads back what it shows, and names what is no number", () => {
  expect(fromDraft(toDraft(rules))).toEqual({ rules, faults: {} });
  const draft = toDraft(rules);
  draft.factors.wet = "lots";
  draft.classes["narrow-chain"].chain = "42.999";
  draft.wear_places = "";
  expect(Object.keys(fromDraft(draft).faults)).toEqual([
    "rules.classes[2].chain",
    "rules.wear_places",
    "rules.factors.wet",
  ]);
  // A preview turns on the school and whole pairs of lines, and on nothing that is half typed.
  draft.classes["one-sprocket"].limit_pct = "0.7";
  const asked = judgedBy(rules, draft, "half");
  expect(asked).toEqual({ ...rules, wear_school: "half" });
});

it("says what a school would change, saves it, and shows both versions when somebody was quicker", async () => {
  let saved = view();
  let quicker = true;
  const asked = serve({
    "GET /rules": () => saved,
    "POST /rules/preview": ({ body }) => ((body as Rules).wear_school === "half" ? one : none),
    "POST /rules/preview-due": () => dueStays,
    "GET /rules/minutes": () => [],
    "GET /people": () => [],
    "PUT /rules": ({ body }) => {
      const sent = body as { version: number; rules: Rules };
      if (quicker) {
        quicker = false;
        saved = view({ version: 4, rules: { ...rules, wear_places: 4 } });
        return new Refused(409, "changed-meanwhile", "Somebody else changed this meanwhile.", {
          yours: sent.rules,
          theirs: saved,
        });
      }
      saved = view({ version: sent.version + 1, rules: sent.rules });
      return saved;
    },
  });
  open("wear");
  fireEvent.click(await screen.findByRole("button", { name: /Change at half/ }));
  expect(await screen.findByText("One verdict would change of 5 when this is saved")).toBeTruthy();
  expect(screen.getByText(/a chain that breaks throws the rider/)).toBeTruthy();
  expect(screen.getByRole("link", { name: /Ottoline Brack/ }).textContent).toContain("Replace the chain");

  fireEvent.click(screen.getByRole("button", { name: /Save the settings/ }));
  const versions = await screen.findByRole("alert", { name: "Two versions" });
  expect(versions.textContent).toContain("places round a chain");
  fireEvent.click(screen.getByRole("button", { name: "Keep mine" }));
  await waitFor(() => expect(saved.version).toBe(5));
  expect(saved.rules.wear_school).toBe("half");
  expect(asked.filter((a) => a.method === "PUT").map((a) => (a.body as { version: number }).version)).toEqual([3, 4]);
});

it("keeps what is changed while the save is under way", async () => {
  let saved = view();
  let answer = () => {};
  const asked = serve({
    "GET /rules": () => saved,
    "POST /rules/preview": () => none,
    "POST /rules/preview-due": () => dueStays,
    "GET /rules/minutes": () => [],
    "GET /people": () => [],
    "PUT /rules": ({ body }) => {
      const sent = body as { version: number; rules: Rules };
      saved = view({ version: sent.version + 1, rules: sent.rules });
      return new Promise((resolve) => {
        answer = () => resolve(saved);
      });
    },
  });
  open("wear");
  fireEvent.click(await screen.findByRole("button", { name: /Change at half/ }));
  const save = screen.getByRole("button", { name: /Save the settings/ });
  fireEvent.click(save);
  await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
  turnTo("place");
  fireEvent.click(screen.getByRole("button", { name: "Miles" }));
  answer();
  await waitFor(() =>
    expect(screen.getByRole("button", { name: /Save the settings/ })).toHaveProperty("disabled", false),
  );
  fireEvent.click(screen.getByRole("button", { name: /Save the settings/ }));
  await waitFor(() => expect(saved.rules.distance_unit).toBe("mi"));
  expect(saved).toMatchObject({ version: 5, rules: { wear_school: "half" } });
  answer();
  await waitFor(() =>
    expect(screen.getByRole("button", { name: /Save the settings/ })).toHaveProperty("disabled", true),
  );
});

it("shows what the server refuses at its own field, and keeps what was typed", async () => {
  serve({
    "GET /rules": () => view(),
    "POST /rules/preview": () => none,
    "POST /rules/preview-due": () => dueStays,
    "GET /rules/minutes": () => [],
    "GET /people": () => [{ id: "p1", name: "Mira Oxenholt", role: "mechanic" }],
    "PUT /rules": () =>
      new Refused(422, "invalid-input", "A kilometre counts for 0.2 to 10.", {
        fields: [
          { path: "rules.factors.mud", code: "out-of-range", message: "A kilometre counts for 0.2 to 10." },
          { path: "rules.floor.hours.tuesday[1]", code: "out-of-order", message: "A stretch ends after it begins." },
          { path: "rules.floor.people.p1.hours.monday[0]", code: "out-of-order", message: "Mondays run backwards." },
        ],
      }),
  });
  const page = open("wear");
  const mud = await screen.findByLabelText("mud");
  fireEvent.change(mud, { target: { value: "28" } });
  fireEvent.click(screen.getByRole("button", { name: /Save the settings/ }));
  await waitFor(() => expect(mud.getAttribute("aria-invalid")).toBe("true"));
  turnTo("day");
  await screen.findByLabelText(/^Own hours/);
  // Hours are one field, whichever of their stretches is wrong.
  const field = (name: RegExp) => screen.getByLabelText(name).closest("div.min-w-0")?.textContent;
  expect(field(/Open on tuesdays/)).toContain("A stretch ends after it begins.");
  expect(field(/^Own hours/)).toContain("Mondays run backwards.");
  expect(screen.getByLabelText("Open on mondays").getAttribute("aria-invalid")).toBe("false");
  page.unmount();
  open("day");
  await screen.findByText(/Also changed and saved with it/); // somebody looked at another place meanwhile
  fireEvent.click(screen.getByRole("link", { name: "Chain wear" }));
  expect(screen.getByLabelText("mud")).toHaveProperty("value", "28");
  fireEvent.click(screen.getByRole("button", { name: "Leave as they were" }));
  expect(screen.getByLabelText("mud")).toHaveProperty("value", "2.8");
});

it("is found by every label that stands in it", async () => {
  serve({
    "GET /rules": () => view(),
    "POST /rules/preview": () => none,
    "POST /rules/preview-due": () => dueStays,
    "GET /rules/minutes": () => [],
    "GET /people": () => [],
  });
  for (const part of partNames) {
    const page = open(part);
    await screen.findByText("As every shop begins");
    for (const closed of document.querySelectorAll("details")) {
      closed.open = true;
      fireEvent(closed, new Event("toggle"));
    }
    const labels = [
      ...document.querySelectorAll("form label > span:first-child, form label[for], form legend, form h2"),
    ];
    expect(labels.length).toBeGreaterThan(0);
    for (const label of labels.map((l) => l.textContent?.trim() ?? "").filter(Boolean))
      expect(
        findSetting(label, defaults).some((f) => f.part === part),
        `${label} of ${part}`,
      ).toBe(true);
    page.unmount();
  }
  expect(findSetting("no such thing", defaults)).toEqual([]);
});
