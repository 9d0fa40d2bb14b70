import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Route, Routes } from "react-router";
import { beforeEach, expect, it } from "vitest";
import type { Bike } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { leadToFaults } from "../../ui/faults";
import { AddBike, EditBike } from "./BikeForm";

const bike: Bike = {
  tag: "B-0001-C",
  customer: { id: "o1", name: "Imelda Harrowgate" },
  facts: { make: "Quernstone", colour: "midnight", ring_teeth: [39] },
  archived: false,
  version: 1,
  added_at: "2026-05-04T12:00:00Z",
};

const pages = (
  <Routes>
    <Route path="/bikes/new" element={<AddBike />} />
    <Route path="/bikes/:tag/edit" element={<EditBike />} />
    <Route path="*" element={<p>gone</p>} />
  </Routes>
);

beforeEach(() => localStorage.clear());

it("adds a bike for a new customer, and shows what the server refuses at its own field", async () => {
  let refusing = true;
  const asked = serve({
    "GET /customers": () => ({ customers: [], total: 0 }),
    "POST /customers": ({ body }) => ({ id: "o2", facts: body, archived: false, version: 1, bikes: 0 }),
    "POST /bikes": () =>
      refusing
        ? new Refused(422, "invalid-input", "3 is outside 30 to 300.", {
            fields: [{ path: "facts.chain_links", code: "minimum", message: "3 is outside 30 to 300." }],
          })
        : bike,
  });
  const user = userEvent.setup();
  show(pages, "/bikes/new");
  await user.click(screen.getByRole("button", { name: /Add the bike/ }));
  expect(await screen.findByText(/Choose whose bike it is/)).toBeVisible();
  await user.type(screen.getByLabelText("Customer"), "Quillon Dace");
  await user.click(await screen.findByRole("button", { name: /Add “Quillon Dace” as a new customer/ }));
  await user.type(screen.getByLabelText("Phone"), "0555{Enter}");
  expect(await screen.findByText("Quillon Dace")).toBeVisible();
  await user.type(screen.getByLabelText("Chainring teeth"), "34/50");
  await user.type(screen.getByLabelText("Links in the chain"), "3");
  await user.click(screen.getByRole("button", { name: /Add the bike/ }));
  const links = screen.getByLabelText("Links in the chain");
  await waitFor(() => expect(links).toBeInvalid());
  expect(links).toHaveAccessibleDescription("3 is outside 30 to 300.");
  refusing = false;
  await user.clear(links);
  await user.type(links, "112");
  await user.click(screen.getByRole("button", { name: /Add the bike/ }));
  await waitFor(() => expect(screen.getByLabelText("address")).toHaveTextContent("/bikes/B-0001-C"));
  const sent = asked.filter((a) => a.path === "/bikes" && a.method === "POST");
  expect(sent.at(-1)?.body).toEqual({ customer_id: "o2", facts: { ring_teeth: [34, 50], chain_links: 112 } });
  expect(sent[0]?.key).not.toBe(sent[1]?.key);
  await waitFor(() => expect(localStorage.getItem("pony.draft.bike.new.")).toBeNull());
});

it("adds an owner who was only typed with the bike, keeps them over a reload, and leads to what is wrong", async () => {
  let refusing = true;
  const asked = serve({
    "GET /customers": () => ({ customers: [], total: 0 }),
    "POST /bikes": () =>
      refusing
        ? new Refused(422, "invalid-input", "The name is missing.", {
            fields: [{ path: "facts.chain_links", code: "minimum", message: "3 is outside 30 to 300." }],
          })
        : bike,
  });
  const stop = leadToFaults(document);
  const user = userEvent.setup();
  const first = show(pages, "/bikes/new");
  await user.click(screen.getByRole("button", { name: /Add the bike/ }));
  await waitFor(() => expect(screen.getByLabelText("Customer")).toHaveFocus());
  expect(screen.getByLabelText("Customer")).toBeInvalid();
  await user.type(screen.getByLabelText("Customer"), "Quillon Dace");
  expect(await screen.findByText(/is new here/), "how they may be reached is asked at once").toBeVisible();
  await user.type(screen.getByLabelText("Mail"), "quillon@example.com");
  await user.click(screen.getByRole("button", { name: "Mail" }));
  await user.click(screen.getByRole("checkbox", { name: "Agreed to be contacted" }));
  first.unmount();
  show(pages, "/bikes/new");
  expect(screen.getByLabelText("Customer")).toHaveValue("Quillon Dace");
  await user.type(screen.getByLabelText("Links in the chain"), "3{Enter}");
  const links = screen.getByLabelText("Links in the chain");
  await waitFor(() => expect(links).toBeInvalid());
  (document.activeElement as HTMLElement).blur();
  await user.click(screen.getByRole("button", { name: /Add the bike/ }));
  await waitFor(() => expect(links).toHaveFocus()); // refused for the same again, it is led to again
  refusing = false;
  await user.click(screen.getByRole("button", { name: /Add the bike/ }));
  await waitFor(() => expect(screen.getByLabelText("address")).toHaveTextContent("/bikes/B-0001-C"));
  expect(asked.filter((a) => a.method === "POST").at(-1)?.body).toEqual({
    customer: {
      name: "Quillon Dace",
      phone: "",
      email: "quillon@example.com",
      contact_way: "mail",
      consent: true,
      consent_how: "",
    },
    facts: { chain_links: 3 },
  });
  expect(asked.some((a) => a.path === "/customers" && a.method === "POST")).toBe(false);
  stop();
});

it("keeps what was typed over a reload, and forgets it when one leaves", async () => {
  serve({ "GET /bikes/B-0001-C": () => bike });
  const user = userEvent.setup();
  const first = show(pages, "/bikes/B-0001-C/edit");
  await user.type(await screen.findByLabelText("Colour"), " blue");
  first.unmount();
  show(pages, "/bikes/B-0001-C/edit");
  expect(await screen.findByLabelText("Colour")).toHaveValue("midnight blue");
  await user.click(screen.getByRole("button", { name: "Leave unsaved" }));
  await waitFor(() => expect(localStorage.getItem("pony.draft.bike.B-0001-C")).toBeNull());
});

it("shows both versions when somebody else was quicker, and takes theirs or keeps mine", async () => {
  const theirs: Bike = {
    ...bike,
    version: 2,
    customer: { id: "o9", name: "Jago Tidwell" },
    facts: { ...bike.facts, colour: "oyster" },
  };
  const asked = serve({
    "GET /bikes/B-0001-C": () => bike,
    "PUT /bikes/B-0001-C": ({ body }) => {
      const change = body as { version: number; facts: object };
      return change.version === 2
        ? { ...theirs, version: 3, facts: change.facts }
        : new Refused(409, "changed-meanwhile", "Somebody else changed this meanwhile.", {
            yours: { facts: change.facts },
            theirs,
          });
    },
  });
  const user = userEvent.setup();
  show(pages, "/bikes/B-0001-C/edit");
  const colour = await screen.findByLabelText("Colour");
  await user.clear(colour);
  await user.type(colour, "pearl");
  await user.click(screen.getByRole("button", { name: /Save changes/ }));
  const both = within(await screen.findByRole("alert", { name: "Two versions" }));
  expect(both.getByRole("row", { name: "colour pearl oyster" })).toBeVisible();
  expect(both.getByRole("row", { name: "owner Imelda Harrowgate Jago Tidwell" })).toBeVisible();
  await user.click(both.getByRole("button", { name: /Take what is there now/ }));
  expect(colour).toHaveValue("oyster");
  await user.clear(colour);
  await user.type(colour, "coral");
  await user.click(screen.getByRole("button", { name: /Save changes/ }));
  await waitFor(() => expect(screen.getByLabelText("address")).toHaveTextContent("/bikes/B-0001-C"));
  expect(asked.filter((a) => a.method === "PUT").at(-1)?.body).toMatchObject({
    version: 2,
    customer_id: "o9",
    facts: { make: "Quernstone", colour: "coral", ring_teeth: [39] },
  });
});
