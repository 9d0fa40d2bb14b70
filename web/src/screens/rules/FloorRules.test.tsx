import { fireEvent, screen, within } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import { serve, show } from "../../test-kit";
import { fromDraft, toDraft } from "./draft";
import { FloorRules } from "./FloorRules";
import { readHours, readWeek, typedHours, typedWeek } from "./hours";
import { defaults, rules } from "./rules-kit";

let latest = toDraft(rules);

function Held() {
  const [draft, setDraft] = useState(toDraft(rules));
  latest = draft;
  return (
    <FloorRules
      view={{ rules, version: 1, defaults, schools: [] }}
      draft={draft}
      change={(part) => setDraft({ ...draft, ...part })}
      fault={(path) => (path === "floor.places.tub" ? "There are 0 to 50 of a place." : undefined)}
    />
  );
}

it("reads hours, places, skills and days away as they are typed", async () => {
  serve({
    "GET /people": () => [
      { id: "p1", name: "Mira Oxenholt", role: "mechanic" },
      { id: "p2", name: "Posy Peake", role: "apprentice" },
      { id: "p3", name: "Odalys Finch", role: "counter" },
    ],
  });
  show(<Held />);
  expect(screen.getByText("There are 0 to 50 of a place.")).toBeTruthy();
  expect((screen.getByLabelText("Open on mondays") as HTMLInputElement).value).toBe("08:30-12:30, 13:00-17:30");
  fireEvent.change(screen.getByLabelText("Stands"), { target: { value: "3" } });
  fireEvent.change(screen.getByLabelText("Open on tuesdays"), { target: { value: "7.30 to 12:00" } });
  const posy = within((await screen.findByRole("group", { name: "Posy Peake" })).closest("li") as HTMLElement);
  expect(posy.getByRole("button", { name: "Washes" }).getAttribute("aria-pressed")).toBe("true");
  fireEvent.click(posy.getByRole("button", { name: "Drivetrains" }));
  fireEvent.change(posy.getByLabelText(/^Own hours/), { target: { value: "wed off; thu 13:00-17:00" } });
  fireEvent.change(posy.getByLabelText(/^Away on/), { target: { value: "2026-12-24 2026-12-31" } });
  const odalys = within(screen.getByRole("group", { name: "Odalys Finch" }));
  expect(odalys.getAllByRole("button").every((b) => b.getAttribute("aria-pressed") === "false")).toBe(true);

  let read = fromDraft(latest);
  expect(read.faults).toEqual({});
  expect(read.rules.floor.places.stand).toBe(3);
  expect(read.rules.floor.hours.tuesday).toEqual([{ from: "07:30", until: "12:00" }]);
  expect(read.rules.floor.people).toEqual({
    ...rules.floor.people,
    p2: {
      skills: ["wash", "drivetrain"],
      hours: { wednesday: [], thursday: [{ from: "13:00", until: "17:00" }] },
      away: ["2026-12-24", "2026-12-31"],
    },
  });
  fireEvent.change(screen.getByLabelText("Open on sundays"), { target: { value: "all day" } });
  fireEvent.change(posy.getByLabelText(/^Own hours/), { target: { value: "some days" } });
  read = fromDraft(latest);
  expect(Object.keys(read.faults)).toEqual(["rules.floor.hours.sunday", "rules.floor.people.p2.hours"]);
});

it("writes hours as it reads them", () => {
  for (const text of ["", "08:30-12:30", "08:30-12:30, 13:00-17:30"]) expect(typedHours(readHours(text))).toBe(text);
  for (const text of ["noon", "8-25", "08:30-", "08:30-12:30 13:00"]) expect(readHours(text)).toBeUndefined();
  expect(readHours("8-12:30, 1 pm to 5.30pm")).toEqual([
    { from: "08:00", until: "12:30" },
    { from: "13:00", until: "17:30" },
  ]);
  for (const text of ["", "mon 09:00-13:00; wed off", "sat 09:00-12:00, 13:00-15:00"])
    expect(typedWeek(readWeek(text))).toBe(text);
  for (const text of ["mon", "mo 09:00-13:00", "someday off", "mon 9"]) expect(readWeek(text)).toBeUndefined();
});
