import { useEffect, useRef } from "react";

/** Whether an element takes what is typed. */
export function takesText(el: Element | null): el is HTMLInputElement | HTMLTextAreaElement {
  return (
    el instanceof HTMLTextAreaElement ||
    el instanceof HTMLSelectElement ||
    (el instanceof HTMLInputElement && !["checkbox", "radio", "button", "submit"].includes(el.type)) ||
    (el instanceof HTMLElement && el.isContentEditable)
  );
}

type Held = { field: HTMLInputElement | HTMLTextAreaElement; value: string };

/** A tag as a scanner types it, at the end of what was typed. */
const tagAtEnd = /b-?\d{4,7}-?[a-z]$/i;

const longestBurst = 200;

/** Keys closer together than this are a scanner's, or somebody's who types a tag blind. */
const scanGap = 90; // ms

/** How long a single letter waits for another before it is taken as a command. */
const commandWait = 130; // ms

/**
 * Listens for single-letter commands and for tags from a scanner, wherever the focus is. A scanner
 * types a tag and Enter; the letters of its tag are no commands, and when they went into a field
 * that field gets back what it had.
 */
export function useKeys(commands: Record<string, () => void>, onTag: (tag: string) => void): void {
  const latest = useRef({ commands, onTag });
  latest.current = { commands, onTag };
  useEffect(() => {
    let typed = ""; // the keys of one burst
    let before: (Held | null)[] = []; // what the field held before each of them
    let last = 0;
    let pending = 0;

    const forget = () => {
      typed = "";
      before = [];
    };
    const onKey = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey) return;
      const now = e.timeStamp; // when the key was pressed: a busy page hears of it later
      const active = document.activeElement;
      const inText = takesText(active);
      if (e.key === "Enter") {
        const tag = now - last < scanGap * 4 ? tagAtEnd.exec(typed) : null;
        if (tag) {
          e.preventDefault();
          e.stopPropagation();
          window.clearTimeout(pending);
          const held = before[tag.index];
          if (held) setValue(held.field, held.value);
          // The form stays until the bike's screen is there: the scanner's Enter must not send it off meanwhile.
          if (active instanceof HTMLElement) active.blur();
          latest.current.onTag(tag[0]);
        }
        forget();
        return;
      }
      if (e.key.length !== 1) {
        if (e.key === "Escape" && !inText) run("Escape");
        return;
      }
      if (now - last > scanGap || typed.length > longestBurst) forget();
      typed += e.key;
      before.push(inText && "value" in active ? { field: active, value: active.value } : null);
      last = now;
      window.clearTimeout(pending);
      if (inText || typed.length > 1) return;
      const command = e.key.toLowerCase();
      if (!latest.current.commands[command]) return;
      if (command === "/" || command === "?") {
        e.preventDefault(); // or the key lands in the field that it opens
        run(command);
        return;
      }
      pending = window.setTimeout(() => run(command), commandWait);
    };
    const run = (command: string) => latest.current.commands[command]?.();
    window.addEventListener("keydown", onKey, true);
    return () => {
      window.removeEventListener("keydown", onKey, true);
      window.clearTimeout(pending);
    };
  }, []);
}

/** Sets a field's value so that React notices. */
export function setValue(field: HTMLInputElement | HTMLTextAreaElement, value: string): void {
  const proto = field instanceof HTMLTextAreaElement ? HTMLTextAreaElement.prototype : HTMLInputElement.prototype;
  Object.getOwnPropertyDescriptor(proto, "value")?.set?.call(field, value);
  field.dispatchEvent(new Event("input", { bubbles: true }));
}
