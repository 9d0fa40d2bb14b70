import { fireEvent, screen, within } from "@testing-library/react";
import { useState } from "react";
import { beforeEach, expect, it } from "vitest";
import type { RulesView } from "../../api/client";
import { serve, show } from "../../test-kit";
import { type Draft, fromDraft, toDraft } from "./draft";
import { parts } from "./parts";
import { defaults, rules as kept } from "./rules-kit";

const rules: RulesView["rules"] = {
  ...kept,
  work: { ...kept.work, damp: false, fixed_route: { soak: 6550 }, tax_inside: false },
};

const view: RulesView = {
  rules,
  version: 1,
  defaults,
  schools: [],
};

let latest: Draft;

function Held() {
  const [draft, setDraft] = useState(toDraft(rules));
  latest = draft;
  return (
    <>
      {(["cleaning", "minutes", "prices"] as const).map((n) => (
        <section key={n} aria-label={n}>
          {parts[n].show({
            view,
            draft,
            change: (part) => setDraft({ ...draft, ...part }),
            fault: (path) => (path === "work.tax_pct" ? "Tax is 0 to 100 %." : undefined),
          })}
        </section>
      ))}
    </>
  );
}

beforeEach(() => serve({ "GET /rules/minutes": () => [] }));

it("reads what is kept back as it was", () => {
  expect(fromDraft(toDraft(rules))).toEqual({ rules, faults: {} });
});

it("chooses schools, prices and minutes, says the house's beside them, and takes an empty field for the house's", () => {
  show(<Held />);
  fireEvent.click(screen.getByRole("button", { name: /The frame/ }));
  fireEvent.click(screen.getByRole("button", { name: /bucket and hose only/ }));
  fireEvent.click(screen.getByRole("button", { name: /Little and often/ }));
  fireEvent.click(screen.getByLabelText("Humid or salty air here"));
  fireEvent.click(screen.getByLabelText("The prices hold the tax already"));
  fireEvent.change(screen.getByLabelText("An hour of work"), { target: { value: "54,00" } });
  expect(screen.getByText("Tax is 0 to 100 %.")).toBeTruthy();
  expect(screen.getByText("Default: 8")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Index the gears"), { target: { value: "12" } });
  fireEvent.change(screen.getByLabelText("One drop on every roller"), { target: { value: "" } });
  fireEvent.change(screen.getAllByLabelText("Soak")[0] as HTMLElement, { target: { value: "" } });
  fireEvent.change(screen.getAllByLabelText("Soak")[1] as HTMLElement, { target: { value: "1.50" } });
  expect(fromDraft(latest)).toEqual({
    faults: {},
    rules: {
      ...rules,
      work: {
        ...rules.work,
        first: "frame-first",
        pressure: "never",
        when: "little-and-often",
        damp: true,
        tax_inside: true,
        labour_hour: 5400,
        minutes: { index: 12 },
        fixed_route: {},
        waste_route: { soak: 150 },
      },
    },
  });
  fireEvent.change(screen.getByLabelText("Rounded up to"), { target: { value: "five" } });
  fireEvent.change(screen.getAllByLabelText("Clip-on cleaner")[0] as HTMLElement, { target: { value: "dear" } });
  expect(fromDraft(latest).faults).toEqual({
    "rules.work.labour_step": "“five” is not a number.",
    "rules.work.fixed_route.bath": "“dear” is not a number.",
  });
});

it("says what steps really take, and takes a suggestion over only when told to", async () => {
  serve({
    "GET /rules/minutes": () => [
      {
        code: "index",
        title: "Index the gears",
        planned: 8,
        suggested: 12,
        of: 20,
        people: [{ name: "Posy Peake", minutes: 19, of: 6 }],
      },
    ],
  });
  show(<Held />);
  const learned = within(await screen.findByRole("region", { name: "What steps really take" }));
  expect(learned.getByRole("listitem").textContent).toContain(
    "Index the gears: planned 8 min, takes 12 minof 20 times; Posy Peake 19 min",
  );
  expect(fromDraft(latest).rules.work.minutes).toEqual(rules.work.minutes);
  fireEvent.click(learned.getByRole("button", { name: "Plan 12 min for Index the gears" }));
  expect(fromDraft(latest).rules.work.minutes).toEqual({ ...rules.work.minutes, index: 12 });
  expect(screen.queryByRole("region", { name: "What steps really take" })).toBeNull();
});
