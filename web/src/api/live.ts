import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { found, look, reachNow } from "../outbox/reach";
import type { Change } from "./client";
import { madeOld } from "./keys";

/** Asks again for whatever a change makes old: one on another screen, or one's own write. */
export function refresh(client: QueryClient, ...changes: Change[]): Promise<unknown> {
  const are = changes.map(madeOld);
  // Without a server nothing is asked now: it is when the server is heard again.
  const refetchType = reachNow().reached ? "active" : "none";
  return client.invalidateQueries({ predicate: (q) => are.some((isOld) => isOld(q.queryKey)), refetchType });
}

/** How long after the browser gave a stream up it is opened anew: it does by itself what only broke off. */
const anew = 3_000;

/** Follows what happens in the shop; reports whether the server is heard. */
export function useLive(signedIn: boolean): boolean {
  const client = useQueryClient();
  const [heard, setHeard] = useState(true);
  useEffect(() => {
    if (!signedIn) return;
    let source: EventSource;
    let timer: number | undefined;
    const open = () => {
      source = new EventSource("/api/v1/events");
      source.addEventListener("ready", () => {
        found();
        setHeard(true);
      });
      source.addEventListener("change", (e) => void refresh(client, JSON.parse(e.data)));
      // The browser tries again by itself; what was missed comes with the first "everything".
      source.onerror = () => {
        void look();
        setHeard(false);
        if (source.readyState === EventSource.CLOSED) timer = window.setTimeout(open, anew);
      };
      source.onopen = () => {
        found();
        setHeard(true);
        void refresh(client, { topic: "everything" });
      };
    };
    open();
    return () => {
      window.clearTimeout(timer);
      source.close();
    };
  }, [client, signedIn]);
  return heard;
}
