import { fireEvent, screen, within } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import type { DuePreview, Rules, RulesView } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { type Draft, fromDraft, toDraft } from "./draft";
import { parts } from "./parts";
import { defaults, rules } from "./rules-kit";

const counts = { overdue: 2, due: 3, soon: 1, fresh: 8 };
const stays: DuePreview = { now: counts, would: counts, of: 14 };

const view: RulesView = { rules, version: 1, defaults, schools: [] };

let latest: Draft;

function Held() {
  const [draft, setDraft] = useState(toDraft(rules));
  latest = draft;
  return (
    <>
      {[parts.intervals, parts.customers].map((p) => (
        <section key={p.name}>
          {p.show({
            view,
            draft,
            change: (part) => setDraft({ ...draft, ...part }),
            fault: (path) => (path === "recalls.text" ? "{tea} stands for nothing." : undefined),
          })}
        </section>
      ))}
    </>
  );
}

it("reads intervals as they are typed: a school, the table's tasks, tasks of the shop's own, and how owners are told", () => {
  serve({ "POST /rules/preview-due": () => stays });
  show(<Held />);
  expect((screen.getByLabelText("Wash, every days") as HTMLInputElement).value).toBe("7");
  const lubricate = within(screen.getByRole("row", { name: /^Lubricate the chain/ }));
  expect(lubricate.getByText("by its lubricant")).toBeTruthy();
  expect((lubricate.getByLabelText("Lubricate the chain, every days") as HTMLInputElement).placeholder).toBe("–");
  fireEvent.change(screen.getByLabelText("Wash, every days"), { target: { value: "" } });
  fireEvent.change(screen.getByLabelText("Wash, every wear km"), { target: { value: "350" } });
  fireEvent.click(screen.getByRole("button", { name: /Wiped after each ride/ }));
  fireEvent.change(screen.getByLabelText("Done in the same visit when due within"), { target: { value: "soon" } });
  fireEvent.click(screen.getByRole("button", { name: "Add a task" }));
  const own = within(screen.getByRole("group", { name: "Tasks of the shop's own" }));
  fireEvent.change(own.getByLabelText("What is done"), { target: { value: "Sealant & rim tape" } });
  fireEvent.change(own.getAllByLabelText("Every")[1] as HTMLElement, { target: { value: "180" } });

  fireEvent.click(screen.getByRole("button", { name: "sunday" }));
  fireEvent.click(screen.getByRole("button", { name: "monday" }));
  fireEvent.click(screen.getByLabelText("Send drafts without a person"));
  fireEvent.change(screen.getByLabelText("Closed on, as 2026-12-25"), { target: { value: "2026-12-25, 2026-12-26" } });
  expect(screen.getByText("{tea} stands for nothing.")).toBeTruthy();

  const read = fromDraft(latest);
  expect(Object.keys(read.faults)).toEqual(["rules.intervals.look_ahead_days"]);
  expect(read.rules.intervals).toMatchObject({
    school: "wipe-often",
    changed: { wash: { every_hard_km: 350 } },
    own: [
      { code: "sealant-rim-tape", title: "Sealant & rim tape", every_days: 180, weight: 1, safety: false, kinds: [] },
    ],
  });
  expect(read.rules.recalls).toMatchObject({
    by_itself: true,
    closed: ["monday"],
    closed_on: ["2026-12-25", "2026-12-26"],
    every_days: 21,
  });
  fireEvent.click(own.getByRole("button", { name: "Take it off" }));
  expect(fromDraft(latest).rules.intervals.own).toEqual([]);
});

it("says what the intervals would make of the due list, of what is typed whole only", async () => {
  let down = true;
  const asked = serve({
    "POST /rules/preview-due": ({ body }) => {
      if ((body as Rules).intervals.school === "keen") return down ? new Refused(500, "internal", "It broke.") : stays;
      return (body as Rules).intervals.school === "yearly"
        ? { ...stays, would: { ...counts, overdue: 0, fresh: 10 } }
        : stays;
    },
  });
  show(<Held />);
  expect(await screen.findByText("The due list stays as it is.")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: /Once a year/ }));
  expect(await screen.findByText("When this is saved, the due list changes today.")).toBeTruthy();
  const lines = within(screen.getByTestId("would-be-due")).getAllByRole("listitem");
  expect(lines.map((l) => l.textContent)).toEqual(["overdue 2 → 0", "due 3", "soon 1", "fresh 8 → 10"]);

  const before = asked.length;
  fireEvent.change(screen.getByLabelText("Wash, every days"), { target: { value: "often" } });
  fireEvent.click(screen.getByRole("button", { name: "Add a task" }));
  expect(asked.length).toBe(before);
  fireEvent.change(screen.getByLabelText("Wash, every days"), { target: { value: "9" } });
  fireEvent.click(screen.getByRole("button", { name: "Take it off" }));
  fireEvent.click(screen.getByRole("button", { name: /Keen/ }));
  expect(await screen.findByText("It broke.")).toBeTruthy();
  down = false;
  fireEvent.click(screen.getByRole("button", { name: "Try again" }));
  expect(await screen.findByText("The due list stays as it is.")).toBeTruthy();
});
