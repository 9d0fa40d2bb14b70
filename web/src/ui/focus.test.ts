import { expect, it } from "vitest";
import { nearest } from "./focus";

it("goes to what goes on with the work, before what is only near", () => {
  document.body.innerHTML = `<main><section><button>Pause</button><button data-goes-on disabled>Read first</button>
    <button data-goes-on>Got it</button></section><button>Elsewhere</button></main>`;
  const screen = document.querySelector("main") as HTMLElement;
  const section = document.querySelector("section") as HTMLElement;
  const gone = document.createElement("button");
  expect(nearest([gone, section], screen).innerHTML).toBe("Got it");
  section.querySelectorAll("[data-goes-on]").forEach((e) => {
    e.remove();
  });
  expect(nearest([gone, section], screen).innerHTML).toBe("Pause");
  section.remove();
  expect(nearest([gone, section], screen)).toBe(screen);
});
