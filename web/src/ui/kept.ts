import { useEffect, useState } from "react";

/**
 * State that a reload does not lose: what is typed and not sent yet; without a key it is lost. It belongs to this device
 * alone. What is stored is trusted only as far as `fits` says.
 */
export function useKept<T>(key: string | undefined, initial: T, fits: (v: unknown) => v is T) {
  const [value, setValue] = useState<T>(() => {
    if (key === undefined) return initial;
    try {
      const stored: unknown = JSON.parse(localStorage.getItem(key) ?? "null");
      if (fits(stored)) return stored;
    } catch {
      // nothing usable there
    }
    return initial;
  });
  useEffect(() => {
    if (key === undefined) return;
    try {
      localStorage.setItem(key, JSON.stringify(value));
    } catch {
      // storage is full or shut: the page still has it
    }
  }, [key, value]);
  return [value, setValue] as const;
}

/** Forgets all that was typed on this device and not sent. */
export function forgetDrafts(): void {
  try {
    for (const key of Object.keys(localStorage))
      if (/^pony\.(draft|reading|tapped|bench)/.test(key)) localStorage.removeItem(key);
  } catch {
    // nothing to forget
  }
}

export function forget(key: string): void {
  try {
    localStorage.removeItem(key);
  } catch {
    // nothing to forget
  }
}
