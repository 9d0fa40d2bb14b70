import { render, screen } from "@testing-library/react";
import { useState } from "react";
import { afterAll, beforeAll, expect, it } from "vitest";
import { typeLikeKeys } from "./wedge";

// Each key is a task of its own, and what it changes must be there for the next: nothing is held back here
// until a test is done with it.
let was: unknown;
beforeAll(() => {
  was = Reflect.get(globalThis, "IS_REACT_ACT_ENVIRONMENT");
  Reflect.set(globalThis, "IS_REACT_ACT_ENVIRONMENT", false);
});
afterAll(() => void Reflect.set(globalThis, "IS_REACT_ACT_ENVIRONMENT", was));

function Form({ done }: { done: (v: string) => void }) {
  const [text, setText] = useState("");
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        done(text);
      }}
    >
      <input aria-label="reading" value={text} onChange={(e) => setText(e.target.value)} />
      <input aria-label="locked" readOnly value="as it is" />
    </form>
  );
}

it("types into what has the focus, key by key, with Enter at the end", async () => {
  const sent: string[] = [];
  const heard: string[] = [];
  render(<Form done={(v) => sent.push(v)} />);
  const field = screen.getByLabelText("reading");
  field.addEventListener("keydown", (e) => heard.push((e as KeyboardEvent).key));
  field.focus();
  await typeLikeKeys("0.62");
  expect(field).toHaveProperty("value", "0.62");
  expect(heard).toEqual(["0", ".", "6", "2", "Enter"]);
  expect(sent).toEqual(["0.62"]);

  // A key that somebody takes is not typed, just as with a keyboard.
  field.addEventListener("keydown", (e) => e.preventDefault());
  await typeLikeKeys("9");
  expect(field).toHaveProperty("value", "0.62");
  expect(sent).toHaveLength(1);
});

it("types nowhere when nothing takes it", async () => {
  render(<Form done={() => {}} />);
  screen.getByLabelText("locked").focus();
  await typeLikeKeys("1");
  expect(screen.getByLabelText("locked")).toHaveProperty("value", "as it is");
  (document.activeElement as HTMLElement).blur();
  await expect(typeLikeKeys("1")).resolves.toBeUndefined();
});
