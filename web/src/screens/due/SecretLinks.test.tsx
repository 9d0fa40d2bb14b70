import { fireEvent, screen, within } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { Refused, serve, show } from "../../test-kit";
import { SecretLinks } from "./SecretLinks";

afterEach(() => vi.unstubAllGlobals());

const live = (id: string, kind: string, name: string) => ({ id, kind, name, created_at: "2026-03-01T09:00:00Z" });

it("shows a new address once, lists the links that work, and withdraws one only when that is said twice", async () => {
  const copied: string[] = [];
  vi.stubGlobal("navigator", { ...navigator, clipboard: { writeText: async (s: string) => copied.push(s) } });
  let links = [live("l1", "owner", "Tag"), live("l2", "calendar-bike", "Telephone")];
  const asked = serve({
    "GET /links": () => links,
    "POST /links": ({ body }) => {
      const name = (body as { name?: string }).name ?? "Link";
      links = [live("l3", "owner", name), ...links];
      return { ...links[0], path: "/o/third", url: "https://pony.example/o/third", code: "<svg/>" };
    },
    "DELETE /links/l1": () => {
      links = links.filter((l) => l.id !== "l1");
      return {};
    },
  });
  show(<SecretLinks kind="owner" tag="B-0077-R" />);
  fireEvent.click(screen.getByRole("button", { name: "Customer's page" }));
  const dialog = within(await screen.findByRole("dialog"));
  expect((await dialog.findAllByTestId("live-link")).map((l) => l.textContent)).toEqual([
    expect.stringContaining("Tag"),
  ]);
  expect(dialog.queryByTestId("secret-link"), "no address is shown again").toBeNull();
  fireEvent.change(dialog.getByLabelText("What is it for?"), { target: { value: " Letter " } });
  fireEvent.click(dialog.getByRole("button", { name: "Make a link" }));
  expect((await dialog.findByTestId("secret-link")).textContent).toBe("https://pony.example/o/third");
  expect(dialog.getByRole("link", { name: "Open it" }).getAttribute("href")).toBe("/o/third");
  const made = asked.find((a) => a.method === "POST");
  expect(made?.body).toEqual({ kind: "owner", tag: "B-0077-R", name: "Letter" });
  expect(made?.key, "a lost answer is asked for again").toMatch(/^[0-9a-f]{32}$/);
  fireEvent.click(dialog.getByRole("button", { name: "Copy" }));
  expect(await dialog.findByRole("button", { name: "Copied" })).toBeTruthy();
  expect(copied).toEqual(["https://pony.example/o/third"]);

  const old = (await dialog.findAllByTestId("live-link")).find((l) => l.textContent?.includes("Tag"));
  if (!old) throw new Error("the old link is gone");
  fireEvent.click(within(old).getByRole("button", { name: "Withdraw" }));
  expect(asked.filter((a) => a.method === "DELETE")).toEqual([]);
  fireEvent.click(within(old).getByRole("button", { name: "Yes, it opens nothing then" }));
  await vi.waitFor(() => expect(dialog.getAllByTestId("live-link")).toHaveLength(1));
  fireEvent.click(dialog.getByRole("button", { name: "Close" }));
  expect(screen.queryByRole("dialog")).toBeNull();
});

it("says when links cannot be had, made or withdrawn", async () => {
  let broken = true;
  serve({
    "GET /links": () =>
      broken
        ? new Refused(500, "internal", "Something went wrong on our side.")
        : [live("l1", "calendar-shop", "Calendar")],
    "POST /links": () => new Refused(403, "not-allowed", "The counter or a mechanic gives links out."),
    "DELETE /links/l1": () => new Refused(409, "send-again", "Somebody else changed something of this meanwhile."),
  });
  show(<SecretLinks kind="calendar-shop" />);
  fireEvent.click(screen.getByRole("button", { name: "Calendar feed" }));
  const dialog = within(await screen.findByRole("dialog"));
  expect(await dialog.findByText("Something went wrong on our side.")).toBeTruthy();
  broken = false;
  fireEvent.click(dialog.getByRole("button", { name: "Try again" }));
  expect(await dialog.findByTestId("live-link")).toBeTruthy();
  fireEvent.click(dialog.getByRole("button", { name: "Make a link" }));
  expect(await dialog.findByText("The counter or a mechanic gives links out.")).toBeTruthy();
  fireEvent.click(dialog.getByRole("button", { name: "Withdraw" }));
  fireEvent.click(dialog.getByRole("button", { name: /^Yes/ }));
  expect(await dialog.findByText("Somebody else changed something of this meanwhile.")).toBeTruthy();
});
