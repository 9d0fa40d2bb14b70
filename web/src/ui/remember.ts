import { type RefObject, useEffect, useLayoutEffect, useState } from "react";
import { useNavigationType } from "react-router";

// Whoever opens something out of a list comes back to the list as it was left: what was looked for, and how far down.

const values = new Map<string, unknown>();
const places = new Map<string, number>();

/** State of a screen that is as it was left when one comes back to it; loading the page anew forgets it. */
export function useRemembered<T>(name: string, initial: T) {
  const [value, set] = useState<T>(() => (values.has(name) ? (values.get(name) as T) : initial));
  useEffect(() => void values.set(name, value), [name, value]);
  return [value, set] as const;
}

/** Forgets all of it: somebody else works here now. */
export function forgetRemembered(): void {
  values.clear();
  places.clear();
}

/** Screens one goes through row by row: they are found where they were left by their sign, too. */
const lists = /^\/(bikes|customers|due|stock(\/\w+)?)$/;

/** Begins each screen at its top, and those one comes back to where they were left. */
export function useScrollPlace(of: RefObject<HTMLElement | null>, pathname: string): void {
  const back = useNavigationType() === "POP";
  useLayoutEffect(() => {
    const box = of.current;
    if (!box) return;
    const wanted = back || lists.test(pathname) ? (places.get(pathname) ?? 0) : 0;
    let settled = false;
    // What is fetched yet makes it longer: it is gone on with until it is long enough, or somebody scrolls.
    const go = () => {
      box.scrollTop = wanted;
      settled ||= Math.abs(box.scrollTop - wanted) < 2;
      if (settled) grows.disconnect();
    };
    const stop = () => {
      settled = true;
      grows.disconnect();
    };
    const left = () => settled && places.set(pathname, box.scrollTop);
    const grows = new MutationObserver(go);
    grows.observe(box, { childList: true, subtree: true });
    go();
    for (const hand of ["wheel", "touchmove", "keydown"]) box.addEventListener(hand, stop, { passive: true });
    box.addEventListener("scroll", left, { passive: true });
    return () => {
      stop();
      for (const hand of ["wheel", "touchmove", "keydown"]) box.removeEventListener(hand, stop);
      box.removeEventListener("scroll", left);
    };
  }, [of, pathname, back]);
}
