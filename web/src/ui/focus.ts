import { type RefObject, useEffect } from "react";

// Who works by keyboard stays where they were: when what had the focus is gone, as a button that did its work, the focus
// goes to what is nearest to it.

/** What goes on with the work, where a screen says which that is: Enter must not fall on something else. */
const goesOn = "[data-goes-on]:not([disabled])";

const near = "button:not([disabled]), a[href], [role=button]";

/** The element that has the focus in place of one that is gone, by the elements it lay in, the innermost first. */
export function nearest(lay: readonly Element[], screen: HTMLElement): HTMLElement {
  const left = lay.find((e) => e.isConnected && screen.contains(e));
  if (!left || left === screen) return screen;
  if (left.matches(near)) return left as HTMLElement;
  return left.querySelector<HTMLElement>(goesOn) ?? left.querySelector<HTMLElement>(near) ?? screen;
}

/** Keeps the focus within a screen. */
export function useFocusKept(of: RefObject<HTMLElement | null>): void {
  useEffect(() => {
    const screen = of.current;
    if (!screen) return;
    let lay: Element[] = [];
    const remember = (e: FocusEvent) => {
      lay = [];
      for (let at = e.target as Element | null; at && at !== screen; at = at.parentElement) lay.push(at);
    };
    const look = () => {
      const [had] = lay;
      if (!had || had.isConnected || document.activeElement !== document.body) return;
      const next = nearest(lay, screen);
      lay = [];
      next.focus({ preventScroll: true });
    };
    const watch = new MutationObserver(look);
    watch.observe(screen, { childList: true, subtree: true });
    screen.addEventListener("focusin", remember);
    return () => {
      watch.disconnect();
      screen.removeEventListener("focusin", remember);
    };
  }, [of]);
}
