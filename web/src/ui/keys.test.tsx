import { createEvent, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { useKeys } from "./keys";

const heard: string[] = [];

function Page() {
  const [name, setName] = useState("Half a na");
  useKeys({ b: () => heard.push("bikes"), "/": () => heard.push("find") }, (tag) => heard.push(tag));
  return <input aria-label="name" value={name} onChange={(e) => setName(e.target.value)} />;
}

beforeEach(() => {
  heard.length = 0;
  vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout", "performance"] });
  render(<Page />);
});
afterEach(() => vi.useRealTimers());

/** Types keys, so many milliseconds apart, into whatever has the focus. */
function type(keys: string, gap: number) {
  for (const key of [...keys.replace(/⏎$/, ""), ...(keys.endsWith("⏎") ? ["Enter"] : [])]) {
    vi.advanceTimersByTime(gap);
    const target = document.activeElement ?? document.body;
    const press = createEvent.keyDown(target, { key });
    Object.defineProperty(press, "timeStamp", { value: performance.now() });
    const untouched = fireEvent(target, press);
    if (untouched && target instanceof HTMLInputElement && key.length === 1)
      fireEvent.change(target, { target: { value: target.value + key } });
  }
}

it("takes a letter as a command once no other follows it", () => {
  type("b", 500);
  expect(heard).toEqual([]);
  vi.advanceTimersByTime(200);
  expect(heard).toEqual(["bikes"]);
});

it("takes a scanned tag as a tag, and none of its letters as a command", () => {
  type("B-0186-G⏎", 8);
  vi.advanceTimersByTime(500);
  expect(heard).toEqual(["B-0186-G"]);
});

it("takes a tag scanned into a field out of it again", () => {
  screen.getByLabelText("name").focus();
  type("me", 300);
  type("b-0186-g⏎", 8);
  expect(heard).toEqual(["b-0186-g"]);
  expect(screen.getByLabelText("name")).toHaveValue("Half a name");
});

it("leaves what a person types alone", () => {
  screen.getByLabelText("name").focus();
  type("b-0186-g", 300);
  type("⏎", 500);
  vi.advanceTimersByTime(500);
  expect(heard).toEqual([]);
  expect(screen.getByLabelText("name")).toHaveValue("Half a nab-0186-g");
});
