import { act, renderHook } from "@testing-library/react";
import { expect, it } from "vitest";
import { Problem } from "../api/client";
import * as field from "./fields";
import { useForm } from "./form";

const reads = field.facts<{ name: string; quantity: number; box_links?: number; cost?: number }>(
  field.object({
    name: field.line,
    quantity: field.needed(field.whole),
    box_links: field.whole,
    cost: field.money("EUR"),
  }),
);
const start = { name: "", quantity: "", box_links: "", cost: "" };
const refused = new Problem({
  type: "about:blank",
  title: "Not right.",
  status: 422,
  code: "invalid-input",
  fields: [{ path: "facts.name", code: "missing", message: "the name is missing." }],
});

const form = (by: { error: unknown; isPending: boolean } = { error: null, isPending: false }, slot?: string) =>
  renderHook(({ by }) => useForm({ start, reads, by, at: "facts", version: 3, ...(slot ? { slot } : {}) }), {
    initialProps: { by },
  });

it("sends what is meant and nothing for what is empty; what is wrong stands at its field until that is changed", () => {
  const { result } = form();
  const sent: unknown[] = [];
  act(() => result.current.set({ name: " Eleven-speed ", quantity: "many", cost: "4.505" }));
  act(() => result.current.submit((read) => sent.push(read)));
  expect(sent).toEqual([]);
  expect(result.current.fault("quantity")).toBe("“many” is no count.");
  expect(result.current.fault("cost")).toContain("“4.505” is no price");
  act(() => result.current.set({ quantity: "4" }));
  expect(result.current.fault("quantity")).toBeUndefined();
  expect(result.current.fault("cost")).toBeDefined();
  act(() => result.current.set({ cost: "4.50" }));
  act(() => result.current.submit((read) => sent.push(read)));
  expect(sent).toEqual([{ name: "Eleven-speed", quantity: 4, cost: 450 }]);
  act(() => result.current.submit((read) => sent.push(read), { name: "Somebody else has this name." }));
  expect(result.current.fault("name")).toBe("Somebody else has this name.");
  expect(sent).toHaveLength(1);
});

it("says what the server refused at its field, and no longer once the field is changed", () => {
  const { result, rerender } = form({ error: refused, isPending: false });
  expect(result.current.fault("name")).toBe("the name is missing.");
  expect(result.current.failure, "a field says it").toBeUndefined();
  act(() => result.current.set({ name: "Twelve-speed" }));
  expect(result.current.fault("name")).toBeUndefined();
  rerender({ by: { error: new Error("It broke."), isPending: false } });
  expect(result.current.failure).toBeDefined();
});

it("keeps what is typed over a reload with its version and its key, and sends nothing while it is being sent", () => {
  const first = form(undefined, "pony.draft.test");
  act(() => first.result.current.set({ name: "Eleven-speed", quantity: "4" }));
  const { key } = first.result.current;
  first.unmount();
  const second = form({ error: null, isPending: true }, "pony.draft.test");
  expect(second.result.current.typed.name).toBe("Eleven-speed");
  expect([second.result.current.key, second.result.current.version]).toEqual([key, 3]);
  const sent: unknown[] = [];
  act(() => second.result.current.submit((read) => sent.push(read)));
  expect(sent).toEqual([]);
  act(() => second.result.current.renew());
  expect(second.result.current.key).not.toBe(key);
});
