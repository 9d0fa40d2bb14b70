import type { Bike, Job } from "../api/client";
import { keys } from "../api/keys";
import { opened } from "./ahead";
import { bodyOf, type Kept, kinds, madeAsOf } from "./kinds";
import { jobNow, keptNow, queryClient } from "./queue";

// What the screens go on with while the server does not answer: what is known here, and what was made here.

/** What is answered meanwhile: what is known here, upon which the screens lay what is unsent. */
export function standIn(k: Kept): unknown {
  switch (kinds[k.operation].answers) {
    case "job": {
      const job = jobNow(k.job);
      if (job || k.operation !== "openJob") return job;
      return jobMadeHere(k.job ?? "");
    }
    case "waits":
      return (
        queryClient()?.getQueryData<{ waits: unknown[] }>(keys.waits) ?? { waits: [], now: new Date().toISOString() }
      );
    case "other":
      if (k.operation === "addBike") return madeBike(k);
      if (k.operation === "noteWaste") return queryClient()?.getQueryData(keys.waste) ?? [];
      return undefined;
  }
}

/** A bike that was added here and is not on the server yet; it is shown by its page as any other. */
function madeBike(k: Kept): Bike | undefined {
  const tag = madeAsOf(k);
  if (!tag) return undefined;
  const body = bodyOf(k) as { facts: Bike["facts"]; customer?: { name: string }; customer_id?: string };
  const known = queryClient()
    ?.getQueriesData<{ id: string; facts: { name: string } }[]>({ queryKey: [...keys.customers, "found"] })
    .flatMap(([, list]) => (Array.isArray(list) ? list : []))
    .find((c) => c.id === body.customer_id);
  const customer = { id: body.customer_id ?? "", name: body.customer?.name ?? known?.facts.name ?? "" };
  const bike: Bike = {
    tag,
    customer,
    facts: body.facts,
    archived: false,
    version: 0,
    added_at: new Date(k.at + k.behind).toISOString(),
  };
  queryClient()?.setQueryData(keys.bike(tag), bike);
  return bike;
}

/** A job that was opened here and is not on the server yet. */
export function jobMadeHere(id: string): Job | undefined {
  const k = keptNow().find((o) => o.operation === "openJob" && o.job === id);
  if (!k) return undefined;
  const bike = k.tag ? queryClient()?.getQueryData<Bike>(keys.bike(k.tag)) : undefined;
  const name =
    [bike?.facts.make, bike?.facts.model, bike?.facts.colour].filter(Boolean).join(" ") || "bike without a name";
  return opened(k, bike ? { customer: bike.customer, name } : undefined);
}
