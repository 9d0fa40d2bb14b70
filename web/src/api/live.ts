import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Change } from "./client";

/** Asks again for whatever a change on some other screen touches. */
export function refresh(client: QueryClient, change: Change): void {
  const again = (queryKey: unknown[]) => void client.invalidateQueries({ queryKey });
  switch (change.topic) {
    case "bike":
      again(["bike", change.tag]);
      again(["bikes"]);
      again(["due"]);
      again(["messages"]); // what is not sent yet follows what is due
      again(["customers"]);
      again(["bench"]);
      again(["stock"]); // a chain that is worn will be needed
      return;
    case "customer":
      again(["customers"]);
      again(["messages"]);
      again(["bikes"]);
      again(["bike"]);
      return;
    case "instruments":
      again(["instruments"]);
      again(["bench"]);
      return;
    case "stock":
      again(["stock"]);
      again(["bike"]); // what a replacement can be made of
      return;
    case "message":
      again(["messages"]);
      again(["due"]);
      return;
    case "floor":
      again(["floor"]);
      return;
    case "job":
      again(["floor"]);
      again(["due"]);
      again(["messages"]);
      again(["jobs"]);
      again(["waits"]);
      again(["materials"]); // steps draw from them
      again(["baths"]);
      if (change.tag) again(["bike", change.tag]);
      return;
    case "stores":
      again(["baths"]);
      again(["materials"]);
      again(["waste"]);
      again(["jobs"]); // what a job costs
      return;
    case "rules": // they reach into every verdict and forecast
      void client.invalidateQueries();
      return;
    case "everything":
      void client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "bench" });
      return;
  }
}

/** Follows what happens in the shop; reports whether the server is heard. */
export function useLive(signedIn: boolean): boolean {
  const client = useQueryClient();
  const [heard, setHeard] = useState(true);
  useEffect(() => {
    if (!signedIn) return;
    const source = new EventSource("/api/v1/events");
    source.addEventListener("ready", () => setHeard(true));
    source.addEventListener("change", (e) => refresh(client, JSON.parse(e.data)));
    // The browser tries again by itself; what was missed comes with the first "everything".
    source.onerror = () => setHeard(false);
    source.onopen = () => {
      setHeard(true);
      refresh(client, { topic: "everything" });
    };
    return () => source.close();
  }, [client, signedIn]);
  return heard;
}
