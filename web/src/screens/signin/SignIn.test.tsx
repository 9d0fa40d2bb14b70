import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import { Refused, serve, session, show } from "../../test-kit";
import { SignIn } from "./SignIn";

const people = [
  { id: "p1", name: "Mira Oxenholt", role: "mechanic" },
  { id: "p2", name: "Wenna Oxenholt", role: "owner" },
];

it("takes a name and a PIN, by pad or keyboard, and forgets a wrong one", async () => {
  const answers: unknown[] = [new Refused(401, "wrong-pin", "That PIN is not right."), session];
  const asked = serve({ "GET /people": () => people, "PUT /session": () => answers.shift() });
  const user = userEvent.setup();
  show(<SignIn />);
  await user.click(await screen.findByRole("button", { name: /Mira Oxenholt/ }));
  for (const digit of "2719") await user.click(screen.getByRole("button", { name: digit }));
  await user.click(screen.getByRole("button", { name: "Erase" }));
  await user.type(screen.getByLabelText("PIN"), "x0{Enter}");
  expect(await screen.findByRole("alert")).toHaveTextContent("That PIN is not right.");
  expect(screen.getByLabelText("PIN")).toHaveValue("");
  await user.type(screen.getByLabelText("PIN"), "2718{Enter}");
  await expect
    .poll(() => asked.filter((a) => a.path === "/session").map((a) => (a.body as { pin: string }).pin))
    .toEqual(["2710", "2718"]);
});

it("says how long to wait after too many wrong PINs, and does not ask before", async () => {
  const asked = serve({
    "GET /people": () => people,
    "PUT /session": () => new Refused(429, "too-many-tries", "Too many wrong PINs.", { retry_after_seconds: 300 }),
  });
  const user = userEvent.setup();
  show(<SignIn />);
  await user.click(await screen.findByRole("button", { name: /Mira Oxenholt/ }));
  await user.type(screen.getByLabelText("PIN"), "0000{Enter}");
  expect(await screen.findByRole("alert")).toHaveTextContent("Next try in 300 s");
  await user.type(screen.getByLabelText("PIN"), "2718{Enter}");
  expect(screen.getByRole("button", { name: /Sign in/ })).toBeDisabled();
  expect(asked.filter((a) => a.path === "/session")).toHaveLength(1);
});

it("takes a password of the customer, and says when nobody is entered or nobody answers", async () => {
  serve({ "GET /people": () => people });
  const user = userEvent.setup();
  const { unmount } = show(<SignIn />);
  await user.click(await screen.findByRole("button", { name: /Wenna Oxenholt/ }));
  await user.type(screen.getByLabelText("Password"), "tide tables");
  expect(screen.getByLabelText("Password")).toHaveValue("tide tables");
  expect(screen.queryByRole("button", { name: "7" })).toBeNull();
  unmount();

  serve({ "GET /people": () => [], "GET /setup": () => ({ open: false }) });
  const empty = show(<SignIn />);
  expect(await screen.findByText(/Nobody may sign in here/)).toBeVisible();
  empty.unmount();

  serve({});
  show(<SignIn />);
  expect(await screen.findByRole("alert")).toHaveTextContent("The server cannot be reached.");
  serve({ "GET /people": () => people });
  await user.click(screen.getByRole("button", { name: "Try again" }));
  expect(await screen.findByRole("button", { name: /Mira/ })).toBeVisible();
});
