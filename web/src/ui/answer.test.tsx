import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import { Problem } from "../api/client";
import { Asked, Searched, useAnswer } from "./answer";

// A server whose answers come when the test says, in whatever order.
function slow() {
  const waiting = new Map<string, { answer: (said: string) => void; refuse: (why: Error) => void }>();
  const ask = (q: string) =>
    new Promise<string>((answer, refuse) => {
      waiting.set(q, { answer, refuse });
    });
  const settle = (q: string, how: (w: NonNullable<ReturnType<typeof waiting.get>>) => void) =>
    act(async () => {
      const w = waiting.get(q);
      if (!w) throw new Error(`${q} was never asked`);
      how(w);
      await Promise.resolve();
    });
  return { ask, settle };
}

function Asking({ ask }: { ask: (q: string) => Promise<string> }) {
  const [q, setQ] = useState("");
  const of = useAnswer({ key: ["q", q], put: q ? () => ask(q) : undefined });
  return (
    <>
      <input aria-label="q" value={q} onChange={(e) => setQ(e.target.value)} />
      <output aria-label="answer">{of.answer ?? "none"}</output>
      <Asked of={of}>
        {(said, old) => (
          <button type="button" disabled={old}>
            {said}
          </button>
        )}
      </Asked>
    </>
  );
}

it("never gives the answer to an older question as the answer to the present one", async () => {
  const server = slow();
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { networkMode: "always" } } })}>
      <Asking ask={server.ask} />
    </QueryClientProvider>,
  );
  const type = (text: string) => fireEvent.change(screen.getByLabelText("q"), { target: { value: text } });
  const answer = () => screen.getByLabelText("answer").textContent;
  expect(answer()).toBe("none");
  expect(screen.queryByText("Working it out…")).toBeNull(); // nothing is asked yet
  type("1");
  expect(screen.getByText("Working it out…")).toBeTruthy();
  await server.settle("1", (w) => w.answer("one"));
  expect(await screen.findByRole("button", { name: "one" })).toHaveProperty("disabled", false);
  expect(answer()).toBe("one");

  type("2"); // the answer before stands there, said to be none, and nothing can be done by it
  expect(answer()).toBe("none");
  expect(screen.getByText("Working it out…")).toBeTruthy();
  expect(screen.getByRole("button", { name: "one" })).toHaveProperty("disabled", true);
  type("3");
  await server.settle("3", (w) => w.answer("three"));
  await screen.findByRole("button", { name: "three" });
  await server.settle("2", (w) => w.answer("two")); // late: nobody asks that any longer
  expect(answer()).toBe("three");
  expect(screen.queryByText("Working it out…")).toBeNull();

  type("4");
  await server.settle("4", (w) =>
    w.refuse(new Problem({ type: "about:blank", title: "No.", status: 422, code: "no" })),
  );
  expect(await screen.findByText("No.")).toBeTruthy();
  expect(answer()).toBe("none");
  type(""); // no question, no answer
  expect(answer()).toBe("none");
  expect(screen.queryByRole("button")).toBeNull();
});

it("draws what fitted the text before with that text, until the present one is answered", () => {
  const list = (q: string, old: boolean) => (
    <Searched query={{ isPlaceholderData: old }} question={{ q }}>
      {(asked) => <p>1 bike with {asked.q}</p>}
    </Searched>
  );
  const { rerender, container } = render(list("cargo", false));
  rerender(list("trail", true));
  expect(container.textContent).toBe("1 bike with cargoLooking…");
  rerender(list("trail", false));
  expect(container.textContent).toBe("1 bike with trail");
  rerender(list("tandem", true));
  expect(container.textContent).toBe("1 bike with trailLooking…");
});
