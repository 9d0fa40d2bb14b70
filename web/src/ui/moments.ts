import { type Query, type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { waitsOptions } from "../api/queries";

// What a screen shows until a moment (a wait, a lock, a least time) is asked again when that moment comes, by
// the server's clock, without anybody's doing. Each query says with `until` which moments its data hangs on; one
// watcher in the frame looks at those that are on the screen.

/** How long after a moment it is asked, and how long before it is asked again where the server still says the same. */
const soon = 50;
const again = 900;

/** When a query is to be asked again for a moment that came or will come; times in milliseconds of this device. */
export function askAt(moments: (string | undefined)[], answered: number, behind: number): number {
  let first = Number.POSITIVE_INFINITY;
  for (const m of moments) {
    const at = m === undefined ? Number.NaN : Date.parse(m) - behind;
    if (Number.isNaN(at)) continue;
    // Asked after it came, the server still says so: our idea of its clock is a little off, or it could not be
    // reached.
    first = Math.min(first, answered > at ? answered + again : at + soon);
  }
  return first;
}

const momentsOf = (q: Query) =>
  (q.meta?.until as ((data: unknown) => (string | undefined)[]) | undefined)?.(q.state.data);

/** Watches the moments of all that is on the screen. */
export function watchMoments(client: QueryClient): () => void {
  const cache = client.getQueryCache();
  let timer: number | undefined;
  const look = () => {
    window.clearTimeout(timer);
    const behind = client.getQueryData(waitsOptions.queryKey)?.behind ?? 0;
    let next = Number.POSITIVE_INFINITY;
    for (const q of cache.getAll()) {
      if (q.state.data === undefined || q.state.fetchStatus !== "idle" || !q.isActive()) continue;
      const at = askAt(momentsOf(q) ?? [], Math.max(q.state.dataUpdatedAt, q.state.errorUpdatedAt), behind);
      if (at <= Date.now()) void client.invalidateQueries({ queryKey: q.queryKey, exact: true });
      else next = Math.min(next, at);
    }
    // A timer cannot be set for further than this; looking in between costs nothing.
    if (next < Number.POSITIVE_INFINITY) timer = window.setTimeout(look, Math.min(next - Date.now(), 3_600_000));
  };
  const afterwards = () => {
    window.clearTimeout(timer);
    timer = window.setTimeout(look);
  };
  const leave = cache.subscribe((e) => {
    if (
      e.type === "observerAdded" ||
      (e.type === "updated" && (e.action.type === "success" || e.action.type === "error"))
    )
      // After the cache has told everybody: what it is to ask again is not asked in the middle of that.
      afterwards();
  });
  look();
  return () => {
    leave();
    window.clearTimeout(timer);
  };
}

export function useMoments(): void {
  const client = useQueryClient();
  useEffect(() => watchMoments(client), [client]);
}
