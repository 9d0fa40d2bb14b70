import { useSyncExternalStore } from "react";

// What a device remembers about how it shows things. It is the device's and not the person's: a
// tablet at a dark stand stays dark whoever signs in.

export type Look = {
  theme: "day" | "night" | "auto";
  size: "bare" | "glove"; // glove makes every target 64 px
};

const key = "pony.look";
const usual: Look = { theme: "auto", size: "bare" };
const night = window.matchMedia("(prefers-color-scheme: dark)");
let look = read();
const watchers = new Set<() => void>();

function read(): Look {
  try {
    return { ...usual, ...JSON.parse(localStorage.getItem(key) ?? "{}") };
  } catch {
    return usual; // storage is shut or holds something else
  }
}

/** Puts the look on the page. */
export function applyLook(): void {
  const dark = look.theme === "night" || (look.theme === "auto" && night.matches);
  document.documentElement.dataset.theme = dark ? "pony-night" : "pony-day";
  document.documentElement.dataset.size = look.size;
}

export function setLook(change: Partial<Look>): void {
  look = { ...look, ...change };
  try {
    localStorage.setItem(key, JSON.stringify(look));
  } catch {
    // then it lasts until the page is closed
  }
  applyLook();
  for (const w of watchers) w();
}

night.addEventListener("change", applyLook);

// Paper is white: what is printed at night is printed by day.
window.addEventListener("beforeprint", () => {
  document.documentElement.dataset.theme = "pony-day";
});
window.addEventListener("afterprint", applyLook);

export function useLook(): Look {
  return useSyncExternalStore(
    (w) => {
      watchers.add(w);
      return () => watchers.delete(w);
    },
    () => look,
  );
}
