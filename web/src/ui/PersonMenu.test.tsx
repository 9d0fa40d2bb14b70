import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, expect, it } from "vitest";
import { Refused, serve, session, show } from "../test-kit";
import { deviceName } from "./device";
import { PersonMenu } from "./PersonMenu";
import { setLook } from "./theme";

const people = () => [
  { id: "p1", name: "Mira Oxenholt", role: "mechanic" },
  { id: "p2", name: "Tobiah Marsh", role: "mechanic" },
  { id: "p3", name: "Posy Peake", role: "apprentice" },
];

beforeEach(() => {
  localStorage.clear();
  setLook({ theme: "day", size: "bare" });
});

it("switches person by a tap on the name and the PIN, and shows no PIN that was wrong", async () => {
  const tried: unknown[] = [];
  serve({
    "GET /people": people,
    "PUT /session": ({ body }) => {
      tried.push((body as { pin: string }).pin);
      return tried.length === 1
        ? new Refused(401, "wrong-secret", "That is not the PIN.")
        : { ...session, person: people()[1] };
    },
  });
  let closed = 0;
  show(<PersonMenu close={() => closed++} />);
  const dialog = within(screen.getByRole("dialog"));
  expect(dialog.getByText(/stand 1/)).toBeTruthy();
  await dialog.findByRole("button", { name: /Tobiah Marsh/ });
  // Nobody switches to who they are.
  expect(dialog.queryByRole("button", { name: /Mira Oxenholt/ })).toBeNull();
  fireEvent.click(dialog.getByRole("button", { name: /Tobiah Marsh/ }));
  const pin = document.querySelector("input[type=password]") as HTMLInputElement;
  const send = () => fireEvent.submit(pin.form as HTMLFormElement);
  fireEvent.change(pin, { target: { value: "1111" } });
  send();
  expect(await dialog.findByText("That is not the PIN.")).toBeTruthy();
  expect(pin.value).toBe("");
  expect(closed).toBe(0);
  fireEvent.change(pin, { target: { value: "3141" } });
  send();
  await waitFor(() => expect(closed).toBe(1));
  expect(tried).toEqual(["1111", "3141"]);
});

it("keeps how this device looks and what it is called, and says when signing out failed", async () => {
  serve({ "GET /people": people, "DELETE /session": () => new Refused(500, "internal", "It broke.") });
  show(<PersonMenu close={() => {}} />);
  fireEvent.click(screen.getByRole("button", { name: "Night" }));
  fireEvent.click(screen.getByRole("button", { name: "Gloves" }));
  const page = document.documentElement.dataset;
  expect([page.theme, page.size]).toEqual(["pony-night", "glove"]);
  expect(screen.getByRole("button", { name: "Night" }).getAttribute("aria-pressed")).toBe("true");
  expect(JSON.parse(localStorage.getItem("pony.look") ?? "{}")).toEqual({ theme: "night", size: "glove" });

  const name = screen.getByLabelText("This device is called");
  fireEvent.change(name, { target: { value: " wash bay phone " } });
  expect(deviceName()).toBe("wash bay phone");
  fireEvent.change(name, { target: { value: "   " } }); // no device is without a name
  expect(deviceName()).toBe("wash bay phone");

  fireEvent.click(screen.getByRole("button", { name: "Sign out" }));
  expect(await screen.findByText("It broke.")).toBeTruthy();
});
