import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import { Refused, serve, show } from "../../test-kit";
import { CustomersPlace } from "./CustomersPlace";
import { nobodyTyped, OwnerPicker, ownerOf, type PickedOwner } from "./OwnerPicker";

const owner = (id: string, name: string, part: Record<string, unknown> = {}) => ({
  id,
  version: 1,
  bikes: 1,
  facts: { name, phone: "", email: "", contact_way: "none", consent: false, notes: "", ...part },
});

it("lists who owns bikes, says when nobody fits, and gives the first action of an empty shop", async () => {
  let all = [owner("o1", "Wilmot Quill", { phone: "0555 014 201" }), { ...owner("o2", "Ysolde Trant"), bikes: 6 }];
  let broken = false;
  serve({
    "GET /customers": () =>
      broken ? new Refused(500, "internal", "It broke.") : { customers: all, total: all.length },
  });
  const page = show(<CustomersPlace />);
  const rows = await screen.findAllByRole("listitem");
  expect(rows.map((r) => r.textContent)).toEqual([
    "Wilmot Quill0555 0142011 bike".replace("014201", "014 201"),
    "Ysolde Trant6 bikes",
  ]);
  expect(
    within(rows[0] as HTMLElement)
      .getByRole("link")
      .getAttribute("href"),
  ).toBe("/customers/o1");
  all = [];
  fireEvent.change(screen.getByLabelText("Find among the customers"), { target: { value: "Zebedee" } });
  expect(await screen.findByText("Nobody here fits.")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Find among the customers"), { target: { value: "" } });
  fireEvent.click(screen.getByRole("button", { name: "Archived" }));
  expect(await screen.findByText("Nobody is archived.")).toBeTruthy();
  page.unmount();

  const empty = show(<CustomersPlace />);
  expect(await screen.findByText("Nobody is archived."), "it is found as it was left").toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Current" }));
  expect(await screen.findByText("The customers of the bikes you care for will be here.")).toBeTruthy();
  expect(screen.getByRole("link", { name: "Add the first customer" })).toBeTruthy();
  empty.unmount();
  broken = true;
  show(<CustomersPlace />);
  expect(await screen.findByText("It broke.")).toBeTruthy();
  broken = false;
  all = [owner("o1", "Wilmot Quill")];
  fireEvent.click(screen.getByRole("button", { name: "Try again" }));
  expect(await screen.findByText("Wilmot Quill")).toBeTruthy();
});

let picked: PickedOwner | null = null;

function Picking() {
  const [who, pick] = useState<PickedOwner | null>(null);
  const [typed, type] = useState(nobodyTyped);
  picked = who;
  return <OwnerPicker owner={who} pick={pick} typed={typed} type={type} fault={undefined} />;
}

it("picks an owner by part of the name, or adds one without leaving the bike", async () => {
  let refuse = true;
  const asked = serve({
    "GET /customers": () => ({ customers: [owner("o1", "Wilmot Quill", { phone: "0555 014 201" })], total: 1 }),
    "POST /customers": ({ body }) =>
      refuse
        ? new Refused(422, "invalid-input", "A phone number has digits.", {
            fields: [{ path: "facts.phone", code: "no-digits", message: "A phone number has digits." }],
          })
        : owner("o9", (body as { name: string }).name),
  });
  show(<Picking />);
  expect(asked.length).toBe(0); // nothing is looked for until something is typed
  fireEvent.change(screen.getByLabelText("Customer"), { target: { value: "quill" } });
  fireEvent.click(await screen.findByRole("button", { name: /Wilmot Quill/ }));
  expect(picked).toEqual({ id: "o1", name: "Wilmot Quill" });
  fireEvent.click(screen.getByRole("button", { name: "Somebody else" }));
  expect(picked).toBeNull();

  fireEvent.change(screen.getByLabelText("Customer"), { target: { value: "Casimir Ogle" } });
  fireEvent.click(screen.getByRole("button", { name: "Add “Casimir Ogle” as a new customer" }));
  expect((screen.getByLabelText("Name") as HTMLInputElement).value).toBe("Casimir Ogle");
  fireEvent.change(screen.getByLabelText("Phone"), { target: { value: "none" } });
  fireEvent.keyDown(screen.getByLabelText("Phone"), { key: "Enter" });
  expect((await screen.findAllByText("A phone number has digits.")).length).toBeGreaterThan(0);
  refuse = false;
  fireEvent.change(screen.getByLabelText("Phone"), { target: { value: "0555 014 120" } });
  fireEvent.click(screen.getByRole("button", { name: "Add the customer" }));
  await waitFor(() => expect(picked).toEqual({ id: "o9", name: "Casimir Ogle" }));
  const adds = asked.filter((a) => a.method === "POST");
  expect(adds.at(-1)?.body).toMatchObject({ name: "Casimir Ogle", phone: "0555 014 120", contact_way: "" });
  fireEvent.click(screen.getByRole("button", { name: "Somebody else" }));
});

it("knows from what was typed whose bike it is, and never guesses between two", () => {
  const typed = (q: string) => ({ ...nobodyTyped, q });
  const quill = { id: "o1", name: "Wilmot Quill" };
  expect(ownerOf(typed(" wilmot quill"), [quill])).toEqual({ owner: quill });
  expect(ownerOf(typed("quill"), [quill])).toHaveProperty("fault");
  expect(ownerOf(typed("Wilmot Quill"), [quill, { id: "o2", name: "Wilmot Quill" }])).toHaveProperty("fault");
  expect(ownerOf(typed("Casimir Ogle"), [])).toMatchObject({ add: { name: "Casimir Ogle", phone: "" } });
  expect(ownerOf(typed("0555 014"), [])).toHaveProperty("fault");
  expect(ownerOf(nobodyTyped, [])).toHaveProperty("fault");
  const adding = { ...nobodyTyped, adding: true, name: " Casimir Ogle ", phone: " 0555 " };
  expect(ownerOf(adding, [quill])).toMatchObject({ add: { name: "Casimir Ogle", phone: "0555" } });
  expect(ownerOf({ ...adding, name: " " }, [])).toHaveProperty("fault");
});
