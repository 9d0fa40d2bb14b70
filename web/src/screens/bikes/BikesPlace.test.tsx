import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it, vi } from "vitest";
import type { BikeRow } from "../../api/client";
import { serve, show } from "../../test-kit";
import { Find } from "../../ui/Find";
import { BikesPlace } from "./BikesPlace";

const row = (tag: string, over: Partial<BikeRow> = {}): BikeRow => ({
  tag,
  customer: { id: "o1", name: `Owner of ${tag}` },
  make: "Wharfinger",
  model: "Loper",
  colour: "",
  kind: "everyday",
  archived: false,
  ...over,
});

const read = (over: Partial<NonNullable<BikeRow["chain"]>>): Partial<BikeRow> => ({
  chain: { verdict: "ok", state: "fresh", taken_at: new Date().toISOString(), limit_pct: 0.5, ...over },
});

it("shows each bike with its sign and what was last read", async () => {
  serve({
    "GET /bikes": () => ({
      total: 3,
      bikes: [
        row("B-0001-C", read({ elongation_pct: 0.2, sigma_pct: 0.03 })),
        row("B-0002-E", read({ verdict: "replace-together", state: "overdue", low_pct: 0.75 })),
        row("B-0003-G"),
      ],
    }),
  });
  show(<BikesPlace />);
  const [fresh, overdue, unread] = await screen.findAllByRole("link", { name: /Owner of/ });
  expect(within(fresh as HTMLElement).getByRole("img", { name: "fresh" })).toBeVisible();
  expect(fresh).toHaveTextContent("OK, ride it0.20 % ± 0.03today");
  expect(within(overdue as HTMLElement).getByRole("img", { name: "overdue" })).toBeVisible();
  expect(overdue).toHaveTextContent("Replace chain and cassette0.75 % or more");
  expect(unread).toHaveTextContent("not measured yet");
  expect(screen.getByText("3 bikes")).toBeVisible();
});

it("says what will be here, that nothing fits, and that nothing is archived", async () => {
  serve({ "GET /bikes": () => ({ total: 0, bikes: [] }) });
  const user = userEvent.setup();
  show(<BikesPlace />);
  expect(await screen.findByText("The bikes you care for will be here.")).toBeVisible();
  await user.type(screen.getByLabelText("Find among the bikes"), "zzz");
  expect(await screen.findByText("Nothing here fits.")).toBeVisible();
  await user.clear(screen.getByLabelText("Find among the bikes"));
  await user.click(screen.getByRole("button", { name: "Archived" }));
  expect(await screen.findByText("No bike is archived.")).toBeVisible();
});

it("shows more by the page", async () => {
  const pages = [
    { total: 2, bikes: [row("B-0001-C")], next: "B-0001-C" },
    { total: 2, bikes: [row("B-0002-E")] },
  ];
  serve({ "GET /bikes": () => pages.shift() });
  const user = userEvent.setup();
  show(<BikesPlace />);
  await user.click(await screen.findByRole("button", { name: "Show more" }));
  expect(await screen.findByText("Owner of B-0002-E")).toBeVisible();
  expect(screen.getByText("Owner of B-0001-C")).toBeVisible();
});

it("finds by typing, and opens with the arrow keys and Enter", async () => {
  const found = [row("B-0001-C"), row("B-0002-E")];
  serve({ "GET /bikes": () => ({ total: 9, bikes: found }) });
  const user = userEvent.setup();
  const open = vi.fn();
  show(<Find close={() => {}} open={open} />);
  await user.type(screen.getByLabelText(/Tag, customer/), "own");
  expect(await screen.findByText("2 of 9. Type more to narrow it down.")).toBeVisible();
  await user.keyboard("{ArrowDown}{ArrowDown}{ArrowUp}{ArrowDown}{Enter}");
  expect(open).toHaveBeenCalledExactlyOnceWith("B-0002-E");
});
