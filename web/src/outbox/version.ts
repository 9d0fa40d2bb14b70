import { registerSW } from "virtual:pwa-register";
import type { QueryClient } from "@tanstack/react-query";
import { useSyncExternalStore } from "react";
import { idempotencyKey, type Job, type JobSummary } from "../api/client";
import { keys } from "../api/keys";
import { behindBy } from "../ui/shop";
import { ahead } from "./ahead";
import { leavingOnPurpose } from "./outbox";
import { keptNow, sessionNow } from "./queue";

// The page is installed on the device, so that it starts without a network. A new version of it lies beside the old one and
// waits until nobody is in the middle of something, in any tab: the version is the same for all of them.

let ready = false;
let asked = false; // it is loaded as soon as it is there
let late: (() => void) | undefined; // it was loaded by another tab
let load: (() => Promise<void>) | undefined;
let typed = false;
const listeners = new Set<() => void>();

/** How long whoever wants the new version waits for it. */
const atLatest = 5_000;

/** How long the other tabs have to say that somebody is at something there. */
const toSay = 300;

/** How often a page that stays open looks for a new version. */
const lookAgain = 30 * 60_000;

/** Installs the page on this device, where the address allows it. */
export function install(client: QueryClient): void {
  if (!window.isSecureContext || !navigator.serviceWorker) return;
  const reload = () => {
    leavingOnPurpose();
    window.location.reload();
  };
  const update = registerSW({
    // Another tab loaded it although this one was not heard: what is typed here still keeps it from going.
    onNeedReload: () => {
      late = reload;
      if (asked) reload();
      else catchUp(client);
    },
    onNeedRefresh: () => {
      ready = true;
      for (const tell of [...listeners]) tell();
    },
    onRegisteredSW: (_, registration) => {
      window.setInterval(() => void registration?.update().catch(() => {}), lookAgain);
    },
  });
  load = () => {
    asked = true;
    navigator.serviceWorker.addEventListener("controllerchange", reload, { once: true });
    window.setTimeout(reload, atLatest); // the old one may still be at something: the page is not kept waiting for it
    return update(true);
  };
  tabs?.addEventListener("message", (e: MessageEvent<Asked>) => {
    if (e.data.kind === "may it load" && isBusy(client)) tabs.postMessage({ kind: "no", to: e.data.to });
  });
  document.addEventListener("input", (e) => {
    typed ||= e.isTrusted;
  });
  // Nobody looks, and nobody is at anything: the new version is there when they look again.
  document.addEventListener("visibilitychange", () => {
    if (document.visibilityState !== "hidden") return;
    if (late) catchUp(client);
    else if (ready) void loadNewVersion(client);
  });
}

/** Goes over to the version that the other tabs have, once nobody here is in the middle of something. */
function catchUp(client: QueryClient): void {
  if (late && !isBusy(client)) late();
}

type Asked = { kind: "may it load" | "no"; to: string };

const tabs = typeof BroadcastChannel === "undefined" ? undefined : new BroadcastChannel("pony.version");

/** Whether somebody is in the middle of something in another tab. */
function isBusyElsewhere(): Promise<boolean> {
  if (!tabs) return Promise.resolve(false);
  const to = idempotencyKey();
  return new Promise((resolve) => {
    const end = (busy: boolean) => {
      tabs.removeEventListener("message", hear);
      resolve(busy);
    };
    const hear = (e: MessageEvent<Asked>) => {
      if (e.data.kind === "no" && e.data.to === to) end(true);
    };
    tabs.addEventListener("message", hear);
    window.setTimeout(() => end(false), toSay);
    tabs.postMessage({ kind: "may it load", to } satisfies Asked);
  });
}

/** Another screen was opened: what was typed in the one before is sent or kept. */
export function screenOpened(client: QueryClient): void {
  typed = false;
  catchUp(client);
}

/** Whether somebody is in the middle of something: a field that was typed in, a dialog, a block that was begun. */
export function isBusy(client: QueryClient): boolean {
  if (typed || document.querySelector("dialog[open], [role=dialog]")) return true;
  const me = sessionNow()?.person.name ?? "";
  const open = client.getQueryData<JobSummary[]>(keys.jobs);
  const unsent = keptNow();
  return client
    .getQueriesData<Job>({ queryKey: keys.jobs, predicate: (q) => q.queryKey.length === 2 })
    .some(([, j]) => {
      if (!Array.isArray(j?.step_list)) return false;
      const mine = unsent.filter((k) => k.job === j.id);
      if (mine.length === 0 && open && !open.some((o) => o.id === j.id)) return false; // it ended, and nobody looked at it since
      const now = mine.length > 0 ? ahead(j, mine, me, Date.now() + behindBy()) : j;
      return now.step_list.some((s) => s.mine);
    });
}

/** Loads the new version; says where somebody is in the middle of something, and leaves it, if anywhere. */
export async function loadNewVersion(client: QueryClient): Promise<"here" | "elsewhere" | undefined> {
  if (isBusy(client)) return "here";
  if (await isBusyElsewhere()) return "elsewhere";
  void load?.();
  return undefined;
}

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
