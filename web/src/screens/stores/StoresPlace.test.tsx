import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import type { StockItem } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { StoresPlace } from "./StoresPlace";

const chain: StockItem = {
  id: "c",
  kind: "chain",
  facts: {
    name: "Eleven-speed",
    sprockets: 11,
    quantity: 1,
    low_mark: 2,
    cost: 2200,
    box_links: 118,
    has_joining_link: true,
  },
  low: true,
  retired: false,
  version: 4,
};

const rules = { rules: { currency: "EUR" }, version: 1 };

it("says what is low, what it costs, and what the bikes will ask for", async () => {
  serve({
    "GET /stock": () => [chain],
    "GET /rules": () => rules,
    "GET /stock/needs": () => [
      {
        sprockets: 11,
        chains: 1,
        links: 0,
        short: 1,
        bikes: [
          { tag: "B-0001-A", customer: { id: "o", name: "Bryony Tallisker" } },
          { tag: "B-0002-B", customer: { id: "p", name: "Casimir Ogle" }, days: 12.4 },
        ],
      },
    ],
  });
  show(<StoresPlace />);
  expect((await screen.findAllByText("order: low at 2")).length).toBeGreaterThan(0);
  expect((await screen.findAllByText("€22.00")).length).toBeGreaterThan(0);
  const need = await screen.findByTestId("need");
  expect(need.textContent).toContain("2 11-speed chains1 short");
  expect(need.textContent).toContain("On the shelf: 1 chain, 0 joining links");
  expect(need.textContent).toContain("Bryony Talliskernow");
  expect(need.textContent).toContain("Casimir Oglein 12 d");
});

it("says what will be here, and puts the first thing on the shelf, with each slip at its field", async () => {
  let items: StockItem[] = [];
  const asked = serve({
    "GET /stock": () => items,
    "GET /stock/needs": () => [],
    "GET /rules": () => rules,
    "POST /stock": ({ body }) => {
      const sent = body as { kind: StockItem["kind"]; facts: StockItem["facts"] };
      if (sent.facts.sprockets > 14)
        return new Refused(422, "invalid-input", "Its width is for 1 to 14 sprockets.", {
          fields: [{ path: "facts.sprockets", code: "out-of-range", message: "Its width is for 1 to 14 sprockets." }],
        });
      items = [{ ...chain, kind: sent.kind, facts: sent.facts, low: false }];
      return items[0];
    },
  });
  show(<StoresPlace />);
  expect(await screen.findByText("The shelf is not counted yet.")).toBeTruthy();
  expect(await screen.findByText(/No verdict and no forecast asks for a chain/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: /Put on the shelf/ }));
  fireEvent.click(screen.getByRole("button", { name: "Joining links" }));
  const type = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });
  const send = () => fireEvent.click(screen.getAllByRole("button", { name: /Put on the shelf/ }).at(-1) as HTMLElement);
  type("Name", "Twelve-speed links");
  type("How many", "six");
  type("Cost of one", "4.505");
  send();
  expect(screen.getByText("“six” is no count.")).toBeTruthy();
  expect(screen.getByText("“4.505” is no price: write one such as 45.50.")).toBeTruthy();
  expect(screen.getByText("This is needed.")).toBeTruthy();
  type("Speeds", "20");
  type("How many", "6");
  type("Cost of one", "4.50");
  type("Uses stated", "1");
  send();
  expect(await screen.findByText("Its width is for 1 to 14 sprockets.")).toBeTruthy();
  expect(screen.getByLabelText("Name")).toHaveProperty("value", "Twelve-speed links");
  type("Speeds", "12");
  send();
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  expect((await screen.findAllByText("12-speed joining link, one use stated")).length).toBeGreaterThan(0);
  const sent = asked.filter((a) => a.method === "POST");
  expect(sent.at(-1)?.body).toEqual({
    kind: "joining-link",
    facts: { name: "Twelve-speed links", sprockets: 12, quantity: 6, low_mark: 0, cost: 450, stated_uses: 1 },
  });
  expect(sent[0]?.key).not.toBe(sent[1]?.key); // mended, it is another write
});

it("shows both counts when somebody else counted meanwhile", async () => {
  const theirs = { ...chain, version: 5, facts: { ...chain.facts, quantity: 3 } };
  const asked = serve({
    "GET /stock": () => [chain],
    "GET /stock/needs": () => [],
    "GET /rules": () => rules,
    "PUT /stock/c": ({ body }) => {
      const sent = body as { version: number; facts: StockItem["facts"] };
      return sent.version === 4
        ? new Refused(409, "changed-meanwhile", "Somebody else changed this meanwhile.", { yours: sent.facts, theirs })
        : { ...theirs, facts: sent.facts, version: 6 };
    },
  });
  show(<StoresPlace />);
  fireEvent.click((await screen.findAllByText("Eleven-speed"))[0] as HTMLElement);
  fireEvent.change(screen.getByLabelText("How many"), { target: { value: "7" } });
  fireEvent.click(screen.getByRole("button", { name: "Save" }));
  const versions = await screen.findByRole("alert", { name: "Two versions" });
  expect(versions.textContent).toContain("on the shelf73");
  fireEvent.click(screen.getByRole("button", { name: "Keep mine" }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  expect(asked.filter((a) => a.method === "PUT").map((a) => (a.body as { version: number }).version)).toEqual([4, 5]);
});
