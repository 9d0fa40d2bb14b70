import { registerSW } from "virtual:pwa-register";
import type { QueryClient } from "@tanstack/react-query";
import { useSyncExternalStore } from "react";
import type { Job } from "../api/client";
import { keys } from "../api/keys";
import { leavingOnPurpose } from "./outbox";

// The page is installed on the device, so that it starts without a network. A new version of it lies beside the old one and
// waits until nobody is in the middle of something.

let ready = false;
let load: (() => Promise<void>) | undefined;
let typed = false;
const listeners = new Set<() => void>();

/** How long whoever wants the new version waits for it. */
const atLatest = 5_000;

/** How often a page that stays open looks for a new version. */
const lookAgain = 30 * 60_000;

/** Installs the page on this device, where the address allows it. */
export function install(client: QueryClient): void {
  if (!window.isSecureContext || !navigator.serviceWorker) return;
  const update = registerSW({
    onNeedRefresh: () => {
      ready = true;
      for (const tell of [...listeners]) tell();
    },
    onRegisteredSW: (_, registration) => {
      window.setInterval(() => void registration?.update().catch(() => {}), lookAgain);
    },
  });
  load = () => {
    leavingOnPurpose();
    const reload = () => window.location.reload();
    navigator.serviceWorker.addEventListener("controllerchange", reload, { once: true });
    window.setTimeout(reload, atLatest); // the old one may still be at something: the page is not kept waiting for it
    return update(true);
  };
  document.addEventListener("input", (e) => {
    typed ||= e.isTrusted;
  });
  // Nobody looks, and nobody is at anything: the new version is there when they look again.
  document.addEventListener("visibilitychange", () => {
    if (ready && document.visibilityState === "hidden" && !isBusy(client)) void load?.();
  });
}

/** Another screen was opened: what was typed in the one before is sent or kept. */
export function screenOpened(): void {
  typed = false;
}

/** Whether somebody is in the middle of something: a field that was typed in, a dialog, a block that was begun. */
export function isBusy(client: QueryClient): boolean {
  if (typed || document.querySelector("dialog[open], [role=dialog]")) return true;
  const jobs = client.getQueriesData<Job>({ queryKey: keys.jobs, predicate: (q) => q.queryKey.length === 2 });
  return jobs.some(([, j]) => Array.isArray(j?.step_list) && j.step_list.some((s) => s.mine));
}

/** Loads the new version. */
export const loadNewVersion = (): void => void load?.();

/** Whether a new version waits. */
export const useNewVersion = (): boolean =>
  useSyncExternalStore(
    (tell) => {
      listeners.add(tell);
      return () => void listeners.delete(tell);
    },
    () => ready,
  );

/** Whether the page works without a network at this address: a browser allows that only where nobody can listen in. */
export const onlineOnly = (): boolean => !window.isSecureContext;
