import { useEffect } from "react";
import { setValue } from "./keys";

// A tool that types for itself is plugged in like a keyboard. The simulated one stands in a window of
// its own and sends over a channel what it types; here it is typed, key by key, into whatever has the
// focus, so that it takes the same way as a real one: through the keys that the page listens for, into
// the field, and with Enter at the end.

const slot = "pony.simulated-tool";

/** The channel of this window; a tool is plugged into one window and no other. */
export function wedgeChannel(): string {
  let id = sessionStorage.getItem(slot);
  if (!id) {
    id = Array.from(crypto.getRandomValues(new Uint8Array(8)), (b) => b.toString(16).padStart(2, "0")).join("");
    sessionStorage.setItem(slot, id);
  }
  return `pony-tool-${id}`;
}

/** Ends the task at hand, so that the page answers one key before it gets the next. A timer would be slowed in a window that is not looked at. */
const nextTask = () =>
  new Promise<void>((done) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => {
      port1.close();
      done();
    };
    port2.postMessage(null);
  });

/** Types a text and Enter into what has the focus, as a keyboard would. */
export async function typeLikeKeys(text: string): Promise<void> {
  for (const key of [...text, "Enter"]) {
    const target = document.activeElement ?? document.body;
    const goesOn = target.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true }));
    // A key that is listened for may have moved the focus before it lands, as with a real keyboard.
    const field = document.activeElement;
    if (goesOn && key.length === 1 && (field instanceof HTMLInputElement || field instanceof HTMLTextAreaElement))
      insert(field, key);
    target.dispatchEvent(new KeyboardEvent("keyup", { key, bubbles: true }));
    if (goesOn && key === "Enter" && field instanceof HTMLInputElement) field.form?.requestSubmit();
    await nextTask();
  }
}

function insert(field: HTMLInputElement | HTMLTextAreaElement, text: string): void {
  if (field.disabled || field.readOnly) return;
  const from = field.selectionStart ?? field.value.length;
  const to = field.selectionEnd ?? from;
  setValue(field, field.value.slice(0, from) + text + field.value.slice(to));
  if (field.selectionStart !== null) field.setSelectionRange(from + text.length, from + text.length);
}

/** Takes what the simulated tool types, while one may be plugged in. */
export function useWedge(on: boolean): void {
  useEffect(() => {
    if (!on || typeof BroadcastChannel === "undefined") return;
    const channel = new BroadcastChannel(wedgeChannel());
    let typing = Promise.resolve(); // one text after the other
    channel.onmessage = ({ data }: MessageEvent<unknown>) => {
      if (typeof data === "string") typing = typing.then(() => typeLikeKeys(data));
    };
    return () => channel.close();
  }, [on]);
}
