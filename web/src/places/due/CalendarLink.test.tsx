import { fireEvent, screen, within } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { Refused, serve, show } from "../../test-kit";
import { CalendarLink } from "./CalendarLink";

afterEach(() => vi.unstubAllGlobals());

const link = (token: string) => ({
  kind: "owner",
  path: `/o/${token}`,
  url: `https://pony.example/o/${token}`,
  created_at: "2026-03-01T09:00:00Z",
});

it("shows a secret address, copies it, and withdraws it only when that is said twice", async () => {
  const copied: string[] = [];
  vi.stubGlobal("navigator", { ...navigator, clipboard: { writeText: async (s: string) => copied.push(s) } });
  const asked = serve({ "GET /links/owner": () => link("first"), "POST /links/owner": () => link("second") });
  show(<CalendarLink kind="owner" tag="B-0077-R" />);
  fireEvent.click(screen.getByRole("button", { name: "Owner's page" }));
  const dialog = within(await screen.findByRole("dialog"));
  expect((await dialog.findByTestId("secret-link")).textContent).toBe("https://pony.example/o/first");
  expect(dialog.getByRole("link", { name: "Open it" }).getAttribute("href")).toBe("/o/first");
  fireEvent.click(dialog.getByRole("button", { name: "Copy" }));
  expect(await dialog.findByRole("button", { name: "Copied" })).toBeTruthy();
  expect(copied).toEqual(["https://pony.example/o/first"]);

  fireEvent.click(dialog.getByRole("button", { name: "Withdraw, give a new one" }));
  expect(asked.filter((a) => a.method === "POST")).toEqual([]);
  fireEvent.click(dialog.getByRole("button", { name: "Yes, the old one opens nothing then" }));
  expect(await dialog.findByText("https://pony.example/o/second")).toBeTruthy();
  expect(dialog.getByRole("button", { name: "Copy" }), "the new one is not copied yet").toBeTruthy();
  fireEvent.click(dialog.getByRole("button", { name: "Close" }));
  expect(screen.queryByRole("dialog")).toBeNull();
});

it("says when an address cannot be had or withdrawn, and keeps the one that holds", async () => {
  let broken = true;
  serve({
    "GET /links/calendar-shop": () =>
      broken ? new Refused(500, "internal", "Something went wrong on our side.") : link("shop"),
    "POST /links/calendar-shop": () => new Refused(403, "not-allowed", "An apprentice withdraws no addresses."),
  });
  show(<CalendarLink kind="calendar-shop" />);
  fireEvent.click(screen.getByRole("button", { name: "Calendar feed" }));
  const dialog = within(await screen.findByRole("dialog"));
  expect(await dialog.findByText("Something went wrong on our side.")).toBeTruthy();
  broken = false;
  fireEvent.click(dialog.getByRole("button", { name: "Try again" }));
  expect(await dialog.findByText("https://pony.example/o/shop")).toBeTruthy();
  expect(dialog.queryByRole("link", { name: "Open it" }), "a calendar is subscribed to, not opened").toBeNull();
  fireEvent.click(dialog.getByRole("button", { name: "Withdraw, give a new one" }));
  fireEvent.click(dialog.getByRole("button", { name: /^Yes/ }));
  expect(await dialog.findByText("An apprentice withdraws no addresses.")).toBeTruthy();
  expect(dialog.getByTestId("secret-link").textContent).toBe("https://pony.example/o/shop");
});
