import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Change } from "./client";
import { madeOld } from "./keys";

/** Asks again for whatever a change makes old: one on another screen, or one's own write. */
export function refresh(client: QueryClient, ...changes: Change[]): Promise<unknown> {
  const are = changes.map(madeOld);
  return client.invalidateQueries({ predicate: (q) => are.some((isOld) => isOld(q.queryKey)) });
}

/** Follows what happens in the shop; reports whether the server is heard. */
export function useLive(signedIn: boolean): boolean {
  const client = useQueryClient();
  const [heard, setHeard] = useState(true);
  useEffect(() => {
    if (!signedIn) return;
    const source = new EventSource("/api/v1/events");
    source.addEventListener("ready", () => setHeard(true));
    source.addEventListener("change", (e) => void refresh(client, JSON.parse(e.data)));
    // The browser tries again by itself; what was missed comes with the first "everything".
    source.onerror = () => setHeard(false);
    source.onopen = () => {
      setHeard(true);
      void refresh(client, { topic: "everything" });
    };
    return () => source.close();
  }, [client, signedIn]);
  return heard;
}
