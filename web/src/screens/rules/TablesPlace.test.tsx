import { fireEvent, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { Refused, serve, show } from "../../test-kit";
import { TablesPlace } from "./TablesPlace";

it("shows row by row what was understood, writes nothing while one row is wrong, and all of it at a word", async () => {
  const row = (line: number, part = {}) => ({
    line,
    cells: ["B-0001-A", "400"],
    understood: "400 km",
    faults: [],
    ...part,
  });
  const asked = serve({
    "POST /tables/odometer": ({ body }) => {
      if (body === "tea") return new Refused(422, "invalid-input", "This is no table: it has no header row.");
      const wrong = body === "bad";
      const rows = wrong
        ? [row(2), row(3, { faults: [{ path: "km", code: "wrong-kind", message: "“far” is not a number." }] })]
        : [row(2), row(3)];
      const wrote = asked.filter((a) => a.path === "/tables/odometer").length > 3;
      return {
        columns: ["tag", "km"],
        rows,
        total: rows.length,
        wrong: wrong ? 1 : 0,
        written: wrote ? 2 : 0,
        encoding: "utf-8",
        separator: ",",
      };
    },
    "POST /passports": () => ({ tag: "B-0044-R", new: true, added: 12, known: 0, kept: 1 }),
  });
  show(<TablesPlace />);
  fireEvent.click(screen.getByRole("button", { name: "Odometer readings" }));
  const choose = (text: string) =>
    fireEvent.change(screen.getByLabelText("File: table"), {
      target: { files: [new File([JSON.stringify(text)], `${text}.csv`)] },
    });
  choose("tea");
  expect(await screen.findByText("This is no table: it has no header row.")).toBeTruthy();
  choose("bad");
  expect(await screen.findByText("1 of 2 rows are not right: nothing is written until all are.")).toBeTruthy();
  expect(screen.getAllByTestId("row")[0]?.textContent).toContain("km: “far” is not a number.");
  expect(screen.queryByRole("button", { name: /Write all/ })).toBeNull();
  choose("good");
  expect(await screen.findByText("2 rows are understood. Nothing is written yet.")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Write all 2 rows" }));
  expect(await screen.findByText("2 rows are written.")).toBeTruthy();

  fireEvent.change(screen.getByLabelText("File: passport"), { target: { files: [new File(["{}"], "p.json")] } });
  expect((await screen.findByText(/12 entries taken/)).textContent).toContain("1 of kinds unknown here kept");
  expect(screen.getByRole("link", { name: "Open B-0044-R" })).toBeTruthy();
});
