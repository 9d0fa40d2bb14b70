import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { sessionOptions } from "../api/queries";

// The tabs of a browser share one session: who signs in or out in one of them has done so in all.

const channel = "pony.session";

/** Tells the other tabs that somebody signed in or out in this one. */
export function tellTabs(): void {
  if (typeof BroadcastChannel === "undefined") return;
  const all = new BroadcastChannel(channel);
  all.postMessage("changed");
  all.close();
}

/** Asks again who is signed in when that changed in another tab, or the tab comes to the front again. */
export function useTabs(): void {
  const client = useQueryClient();
  useEffect(() => {
    const again = () => void client.invalidateQueries(); // much that is shown is as this person may see it
    const shown = () => {
      if (document.visibilityState === "visible")
        void client.invalidateQueries({ queryKey: sessionOptions.queryKey, exact: true });
    };
    document.addEventListener("visibilitychange", shown);
    const all = typeof BroadcastChannel === "undefined" ? undefined : new BroadcastChannel(channel);
    all?.addEventListener("message", again);
    return () => {
      document.removeEventListener("visibilitychange", shown);
      all?.close();
    };
  }, [client]);
}
