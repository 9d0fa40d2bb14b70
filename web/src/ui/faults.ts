import { useEffect } from "react";

// A form that is refused leads to what is wrong in it: its first field with a fault is brought into view and has the
// focus, whichever form it is and whether the page or the server refused it.

const wrong = '[aria-invalid="true"]';

/** Leads each form of the page that is sent to its first fault, until somebody goes on typing in it. */
export function leadToFaults(page: Document): () => void {
  let leave = () => {};
  const sent = (e: Event) => {
    leave();
    if (!(e.target instanceof HTMLElement)) return;
    const form = e.target;
    const look = () => {
      const first = form.querySelector<HTMLElement>(wrong);
      if (!first) return;
      leave();
      first.focus({ preventScroll: true });
      first.scrollIntoView?.({ block: "center" });
    };
    const watch = new MutationObserver(look);
    leave = () => {
      watch.disconnect();
      form.removeEventListener("input", leave);
    };
    watch.observe(form, { subtree: true, childList: true, attributeFilter: ["aria-invalid"] });
    form.addEventListener("input", leave);
    // What was wrong before it was sent may still be: nothing changes then. What was mended is no longer marked by now.
    window.setTimeout(look);
  };
  page.addEventListener("submit", sent);
  return () => {
    leave();
    page.removeEventListener("submit", sent);
  };
}

export function useFaultsInView(): void {
  useEffect(() => leadToFaults(document), []);
}
