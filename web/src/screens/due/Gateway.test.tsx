import { fireEvent, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { serve, show } from "../../test-kit";
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
  fireEvent.click(screen.getByRole("button", { name: "Answer STOP as this customer" }));
  expect(await screen.findByText("Taken off: no more messages go there.")).toBeTruthy();
  expect(asked.find((a) => a.method === "POST")?.body).toEqual({ from: "0555 014 118", text: "STOP" });
  shown.unmount();
  received = [];
  show(<GatewayPlace />, "/due/gateway");
  expect(await screen.findByText("The gateway received nothing yet.")).toBeTruthy();
});
