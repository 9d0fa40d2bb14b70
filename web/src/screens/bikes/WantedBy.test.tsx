import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Intake, Wanted } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import type { Coming } from "./cleaning";
import { WantedBy } from "./WantedBy";

const intake: Intake = { frame_grade: 1, drivetrain_grade: 2, complaints: [], reports: "It squeaks" };
const quote = { total: 3200, currency: "EUR", lines: [], unpriced: [] };
const way = (part: Partial<Wanted["choices"][number]>): Wanted["choices"][number] => ({
  route: "quick",
  lubricant: "all-weather",
  ridden_at: "2026-05-05T14:00:00Z",
  done_at: "2026-05-05T13:30:00Z",
  hands_min: 40,
  fits: true,
  recommended: false,
  usual: true,
  misses: ["behind-crank"],
  against: [],
  quote,
  ...part,
});

const quick = way({ recommended: true });
const wipe = way({ route: "wipe", ridden_at: "2026-05-05T11:15:00Z", misses: ["behind-crank", "joints-inside"] });
const wet = way({ lubricant: "wet-oil", usual: false, recommended: true, ridden_at: "2026-05-05T13:00:00Z" });
const { ridden_at: _, ...full } = way({ route: "strip", fits: false });

it("says by each route when it could be ridden and what is given up, and promises only what will be ready", async () => {
  const promised: Coming[] = [];
  let away = false;
  const asked = serve({
    "POST /bikes/B-0001-A/wanted": ({ body }) => {
      if (away) return new Refused(503, "busy", "The server is busy.");
      const until = "2099-01-01T00:00:00Z";
      const closes_at = "2026-05-05T17:30:00Z";
      if (!(body as Intake).wanted_at) return { choices: [quick, wet, wipe, full], until, closes_at };
      const late = { fits: false };
      return { choices: [wipe, { ...quick, ...late }, { ...wet, ...late }, full], until, closes_at };
    },
  });
  show(<WantedBy tag="B-0001-A" intake={intake} promise={(p) => promised.push(p)} />);
  expect(asked, "nothing is asked before somebody wants to know").toHaveLength(0);
  fireEvent.click(screen.getByRole("button", { name: "When could it be ridden?" }));
  const list = within(await screen.findByTestId("wanted"));
  const said = () => list.getAllByRole("listitem").map((l) => l.textContent);
  expect(said()).toEqual([
    expect.stringMatching(/^Quick, all-weather.*€32.00.*the right one for it.*Promise that/),
    expect.stringMatching(/^Wipe, all-weather.*inside of the rollers/i),
    expect.stringMatching(/no room for it in the days ahead$/),
  ]);
  expect(said()[1], "what the right one does not reach either is not given up").not.toContain("crank");
  fireEvent.click(list.getByRole("button", { name: "With other lubricants, too" }));
  expect(said()).toHaveLength(4);

  fireEvent.click(screen.getByRole("button", { name: "In two hours" }));
  await waitFor(() => expect(said()[0]).toContain("Wipe"));
  expect(said()[1]).toContain("not by then");
  expect(list.getAllByRole("button", { name: /^Promise/ })).toHaveLength(1);
  fireEvent.click(list.getByRole("button", { name: "Promise that: Wipe, all-weather oil" }));
  expect(promised).toEqual([{ route: "wipe", lubricant: "all-weather", promised: expect.stringContaining("2026") }]);
  expect(asked.at(-1)?.body, "words change no plan").not.toHaveProperty("reports");

  away = true;
  fireEvent.click(screen.getByRole("button", { name: /^By closing/ }));
  expect(await screen.findByText("The server is busy.")).toBeTruthy();
});
