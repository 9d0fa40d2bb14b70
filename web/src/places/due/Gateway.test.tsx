import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { Refused, serve, show } from "../../test-kit";
import { CalendarLink } from "./CalendarLink";
import { GatewayPlace } from "./GatewayPlace";

it("says that the gateway is simulated, shows what went out, and takes an owner off who answers STOP", async () => {
  let stopped = 1;
  let received = [
    {
      message_id: "m1",
      received_at: "2026-03-03T10:00:00Z",
      way: "message",
      address: "0555 014 118",
      body: "Due.",
      delivered: true,
    },
    {
      message_id: "m2",
      received_at: "2026-03-03T09:00:00Z",
      way: "mail",
      address: "o@example.com",
      body: "Due too.",
      delivered: false,
    },
  ];
  const asked = serve({
    "GET /gateway/received": () => received,
    "POST /gateway/replies": () => ({ stopped: stopped-- }),
  });
  const shown = show(<GatewayPlace />, "/due/gateway");
  expect((await screen.findAllByTestId("received")).map((r) => r.textContent?.includes("Not taken"))).toEqual([
    false,
    true,
  ]);
  expect(screen.getByText(/Nothing leaves this machine/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Answer STOP as this owner" }));
  expect(await screen.findByText("Taken off: no more messages go there.")).toBeTruthy();
  expect(asked.find((a) => a.method === "POST")?.body).toEqual({ from: "0555 014 118", text: "STOP" });
  shown.unmount();
  received = [];
  show(<GatewayPlace />, "/due/gateway");
  expect(await screen.findByText("The gateway received nothing yet.")).toBeTruthy();
});

it("shows a secret address, copies it, and gives a new one only when asked twice", async () => {
  const copied: string[] = [];
  vi.stubGlobal("navigator", { ...navigator, clipboard: { writeText: async (text: string) => copied.push(text) } });
  let url = "http://pony/calendar/old.ics";
  let refuse = true;
  serve({
    "GET /links/calendar-shop": () => ({
      kind: "calendar-shop",
      path: "/calendar/x.ics",
      url,
      created_at: "2026-03-03T10:00:00Z",
    }),
    "POST /links/calendar-shop": () => {
      if (refuse) return new Refused(409, "send-again", "Somebody else changed something of this meanwhile.");
      url = "http://pony/calendar/new.ics";
      return { kind: "calendar-shop", path: "/calendar/y.ics", url, created_at: "2026-03-04T10:00:00Z" };
    },
  });
  show(<CalendarLink kind="calendar-shop" />);
  fireEvent.click(screen.getByRole("button", { name: "Calendar feed" }));
  expect((await screen.findByTestId("secret-link")).textContent).toBe("http://pony/calendar/old.ics");
  fireEvent.click(screen.getByRole("button", { name: "Copy" }));
  expect(await screen.findByRole("button", { name: "Copied" })).toBeTruthy();
  expect(copied).toEqual(["http://pony/calendar/old.ics"]);
  fireEvent.click(screen.getByRole("button", { name: "Withdraw, give a new one" }));
  fireEvent.click(screen.getByRole("button", { name: "Yes, the old one opens nothing then" }));
  expect(await screen.findByText("Somebody else changed something of this meanwhile.")).toBeTruthy();
  refuse = false;
  fireEvent.click(screen.getByRole("button", { name: "Yes, the old one opens nothing then" }));
  await waitFor(() => expect(screen.getByTestId("secret-link").textContent).toBe("http://pony/calendar/new.ics"));
});
