import { fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, expect, it } from "vitest";
import type { Instrument, LedgerEntry, ZeroReading } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { AddTool, ToolPage } from "./ToolPage";
import { ToolsPlace } from "./ToolsPlace";

const gauge: Instrument = {
  id: "g",
  name: "Dial gauge",
  kind: "gauge-percent",
  zero_offset_pct: 0.05,
  zero_checked_on: "2025-04-09",
  zero_check_due: true,
  spreads: true,
  compares: false,
  needs_count: false,
  retired: false,
  version: 3,
};

const entry = (kind: LedgerEntry["kind"], more: Partial<LedgerEntry>): LedgerEntry => ({
  id: kind,
  number: 1,
  kind,
  happened_at: "2025-04-09T10:00:00Z",
  written_at: "2025-04-09T10:00:00Z",
  by: "Tobiah Marsh",
  device: "stand 1",
  ...more,
});

const pages = (
  <Routes>
    <Route path="/settings/tools" element={<ToolsPlace />} />
    <Route path="/settings/tools/new" element={<AddTool />} />
    <Route path="/settings/tools/:id" element={<ToolPage />} />
  </Routes>
);

beforeEach(() => localStorage.clear());

it("says what a reading of a new chain means before it is noted, and notes it once", async () => {
  let tool = gauge;
  const history = [entry("zero-checked", { offset_pct: 0.05, before_pct: 0.03 })];
  const asked = serve({
    "GET /instruments/g": () => ({ instrument: tool, history }),
    "POST /instruments/g/zero-reading": ({ body }) =>
      (body as ZeroReading).text === "0.07"
        ? { offset_pct: 0.07 }
        : new Refused(422, "invalid-input", "no", {
            fields: [{ path: "text", code: "not-a-reading", message: "“new” is not a reading." }],
          }),
    "POST /instruments/g/zero-checks": () => {
      tool = { ...gauge, zero_offset_pct: 0.07, zero_check_due: false, version: 4 };
      return tool;
    },
  });
  show(pages, "/settings/tools/g");
  expect(await screen.findByText(/over half a year ago/)).toBeTruthy();
  expect(screen.getByText(/0.03 until then/)).toBeTruthy();
  const field = screen.getByLabelText("It reads, on a new chain");
  fireEvent.change(field, { target: { value: "new" } });
  expect(await screen.findByText("“new” is not a reading.")).toBeTruthy();
  fireEvent.change(field, { target: { value: "0.07" } });
  expect(await screen.findByText("0.07 % is taken off what it reads")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: /Note the zero check/ }));
  await waitFor(() => expect(screen.queryByText(/over half a year ago/)).toBeNull());
  const noted = asked.filter((a) => a.path.endsWith("zero-checks"));
  expect(noted).toHaveLength(1);
  expect(noted[0]?.key).toBeTruthy();
});

it("takes marks as they are written, and shows both versions of a tool that somebody else changed", async () => {
  const dropin: Instrument = {
    ...gauge,
    id: "d",
    name: "Pair",
    kind: "gauge-dropin",
    compares: true,
    marks_pct: [0.5, 0.75],
  };
  const theirs = { ...dropin, name: "Old pair", version: 4 };
  const asked = serve({
    "GET /instruments/d": () => ({ instrument: dropin, history: [] }),
    "PUT /instruments/d": ({ body }) =>
      (body as { version: number }).version === 3
        ? new Refused(409, "changed-meanwhile", "Somebody else changed this meanwhile.", {
            yours: (body as { facts: unknown }).facts,
            theirs,
          })
        : { ...theirs, name: "Blue pair" },
  });
  show(pages, "/settings/tools/d");
  expect(await screen.findByText("Nothing yet: it was here when the shop began.")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Change" }));
  fireEvent.change(screen.getByLabelText("Name"), { target: { value: "Blue pair" } });
  fireEvent.change(screen.getByLabelText("Its marks"), { target: { value: "half" } });
  fireEvent.click(screen.getByRole("button", { name: "Save changes" }));
  expect(screen.getByText(/“half” is not a list of marks/)).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Its marks"), { target: { value: "0,5 0.75; 1" } });
  fireEvent.click(screen.getByRole("button", { name: "Save changes" }));
  fireEvent.click(await screen.findByRole("button", { name: "Keep mine" }));
  await waitFor(() => expect(asked.filter((a) => a.method === "PUT")).toHaveLength(2));
  expect(asked.filter((a) => a.method === "PUT")[1]?.body).toEqual({
    version: 4,
    facts: { name: "Blue pair", spreads: true, marks_pct: [0.5, 0.75, 1] },
  });
});

it("says that no tool is on the bench, and adds the first", async () => {
  serve({
    "GET /instruments": () => [],
    "POST /instruments": () =>
      new Refused(422, "invalid-input", "taken", {
        fields: [{ path: "facts.name", code: "name-taken", message: "A tool in use has this name already." }],
      }),
  });
  show(pages, "/settings/tools");
  expect(await screen.findByText("No tool is in use.")).toBeTruthy();
  fireEvent.click(screen.getByRole("link", { name: /Add a tool/ }));
  fireEvent.change(await screen.findByLabelText("Name"), { target: { value: "Steel rule" } });
  fireEvent.click(screen.getByRole("button", { name: /Add the tool/ }));
  expect(await screen.findByText("A tool in use has this name already.")).toBeTruthy();
  expect(screen.getByLabelText("Name")).toHaveProperty("value", "Steel rule");
});
