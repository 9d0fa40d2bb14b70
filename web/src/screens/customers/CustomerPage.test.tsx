import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Route, Routes } from "react-router";
import { beforeEach, expect, it } from "vitest";
import type { Customer } from "../../api/client";
import { Refused, serve, show } from "../../test-kit";
import { AddCustomer, CustomerPage, EditCustomer } from "./CustomerPage";

const customer: Customer = {
  id: "o1",
  facts: { name: "Quillon Dace", phone: "0555 014 127", contact_way: "message", consent: true },
  archived: false,
  version: 1,
  bikes: 1,
};

const pages = (
  <Routes>
    <Route path="/customers/new" element={<AddCustomer />} />
    <Route path="/customers/:id" element={<CustomerPage />} />
    <Route path="/customers/:id/edit" element={<EditCustomer />} />
  </Routes>
);

beforeEach(() => localStorage.clear());

it("adds an owner, with each fault at its field", async () => {
  let refusing = true;
  const asked = serve({
    "POST /customers": ({ body }) =>
      refusing
        ? new Refused(422, "invalid-input", "Two things are not right.", {
            fields: [
              { path: "name", code: "minLength", message: "This is needed." },
              { path: "facts.email", code: "not-an-address", message: "This is not a mail address." },
            ],
          })
        : { ...customer, facts: body },
    "GET /customers/o1": () => ({ customer, bikes: [] }),
  });
  const user = userEvent.setup();
  show(pages, "/customers/new");
  await user.type(screen.getByLabelText("Mail"), "dace");
  await user.click(screen.getByRole("button", { name: /Add the customer/ }));
  await waitFor(() => expect(screen.getByLabelText("Name")).toHaveAccessibleDescription("This is needed."));
  expect(screen.getByLabelText("Mail")).toHaveAccessibleDescription("This is not a mail address.");
  refusing = false;
  await user.type(screen.getByLabelText("Name"), "Quillon Dace");
  await user.click(screen.getByRole("button", { name: "Mail" }));
  await user.click(screen.getByLabelText("Agreed to be contacted"));
  await user.click(screen.getByRole("button", { name: /Add the customer/ }));
  expect(await screen.findByText("No bike of theirs is in care.")).toBeVisible();
  expect(asked.filter((a) => a.method === "POST").at(-1)?.body).toMatchObject({
    name: "Quillon Dace",
    contact_way: "mail",
    consent: true,
  });
});

it("changes an owner over the version it saw", async () => {
  const asked = serve({
    "GET /customers/o1": () => ({ customer, bikes: [] }),
    "PUT /customers/o1": ({ body }) => ({ ...customer, version: 2, facts: (body as { facts: object }).facts }),
  });
  const user = userEvent.setup();
  show(pages, "/customers/o1/edit");
  const name = await screen.findByLabelText("Name");
  expect(name).toHaveValue("Quillon Dace");
  await user.type(name, "-Umber");
  await user.click(screen.getByRole("button", { name: /Save changes/ }));
  await waitFor(() =>
    expect(asked.find((a) => a.method === "PUT")?.body).toMatchObject({
      version: 1,
      facts: { name: "Quillon Dace-Umber", consent: true },
    }),
  );
});

it("does not archive an owner whose bikes are here, and says so", async () => {
  serve({
    "GET /customers/o1": () => ({ customer, bikes: [] }),
    "PUT /customers/o1/archived": () => new Refused(409, "has-bikes", "This customer still has bikes here."),
  });
  const user = userEvent.setup();
  show(pages, "/customers/o1");
  expect(await screen.findByText("0555 014 127")).toHaveAttribute("href", "tel:0555 014 127");
  await user.click(screen.getByRole("button", { name: "Archive this customer" }));
  await user.click(screen.getByRole("button", { name: "Archive" }));
  expect(await screen.findByText("This customer still has bikes here.")).toBeVisible();
});
