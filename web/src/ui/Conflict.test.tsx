import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it, vi } from "vitest";
import { Problem } from "../api/client";
import { Conflict, versionsOf } from "./Conflict";

it("shows just the facts in which two versions differ, to choose from", async () => {
  const keepMine = vi.fn();
  const takeTheirs = vi.fn();
  render(
    <Conflict
      yours={{ make: "Pellowe", colour: "claret", ring_teeth: [34, 50], clutch: true }}
      theirs={{ make: "Pellowe", ring_teeth: [34, 50], clutch: false, notes: "heavy" }}
      keepMine={keepMine}
      takeTheirs={takeTheirs}
    />,
  );
  const rows = screen.getAllByRole("row").map((r) => r.textContent);
  expect(rows).toEqual(["FactYoursThere now", "clutchyesno", "colourclaretnot noted", "notesnot notedheavy"]);
  await userEvent.click(screen.getByRole("button", { name: "Keep mine" }));
  await userEvent.click(screen.getByRole("button", { name: /Take what is there/ }));
  expect(keepMine).toHaveBeenCalledOnce();
  expect(takeTheirs).toHaveBeenCalledOnce();
});

it("knows a conflict from other problems", () => {
  const problem = (code: string) =>
    new Problem({ type: "about:blank", title: "", status: 409, code, yours: 1, theirs: 2 });
  expect(versionsOf(problem("changed-meanwhile"))).toEqual({ yours: 1, theirs: 2 });
  expect(versionsOf(problem("bike-archived"))).toBeNull();
  expect(versionsOf(new Error("x"))).toBeNull();
});
