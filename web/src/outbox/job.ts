import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Job, Session, WaitView } from "../api/client";
import { keys } from "../api/keys";
import { jobOptions, jobWordsOptions, waitsOptions } from "../api/queries";
import { useServerTime } from "../ui/Waits";
import { ahead, waitDone } from "./ahead";
import { bodyOf, type Kept, ownIdOf, stepOf } from "./kinds";
import { jobMadeHere } from "./meanwhile";
import { isAnothers, stopped, useUnsent, useUnsentOfJob } from "./queue";
import { useReach } from "./reach";

/** A job with what this device did to it and could not send yet. */
export function useJob(id: string) {
  const client = useQueryClient();
  const query = useQuery(jobOptions(id));
  const unsent = useUnsentOfJob(id);
  const away = !useReach().reached;
  const words = useQuery({ ...jobWordsOptions, enabled: unsent.length > 0 || away }).data;
  const me = client.getQueryData<Session | null>(keys.session)?.person.name ?? "";
  const now = useServerTime();
  const base = query.data ?? (unsent.length > 0 ? jobMadeHere(id) : undefined);
  const alone = unsent.length > 0 || (away && base !== undefined);
  // What waits ends by itself: it is worked out anew when one does, and not each second.
  const ended = alone
    ? [...(base?.waits ?? []), ...begunWaits(unsent, base)].filter((w) => Date.parse(w.least_at) <= now).length
    : 0;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the time counts only as waits end
  const data = useMemo(
    () => (base && alone ? ahead(base, unsent, me, now, words) : base),
    [base, alone, unsent, me, words, ended],
  );
  return { isPending: query.isPending && data === undefined, data, error: query.error, refetch: query.refetch };
}

const begunWaits = (unsent: Kept[], job: Job | undefined): WaitView[] =>
  job ? ahead(job, unsent, "", 0).waits.filter((w) => !job.waits.some((o) => o.id === w.id)) : [];

/** What runs by itself anywhere in the shop, with what this device started or ended. */
export function useRunning(): WaitView[] {
  const client = useQueryClient();
  const waits = useQuery(waitsOptions).data?.waits;
  const all = useUnsent();
  return useMemo(() => {
    const list = waits ?? [];
    if (all.length === 0) return list;
    const not = stopped(all);
    const unsent = all.filter((k) => !not.has(k.key) && !isAnothers(k));
    let now = list;
    for (const id of new Set(unsent.flatMap((k) => (k.job ? [k.job] : [])))) {
      const job = client.getQueryData<Job>(keys.job(id)) ?? jobMadeHere(id);
      if (!job) continue;
      now = [...now.filter((w) => w.job_id !== id), ...ahead(job, unsent, "", 0).waits];
    }
    for (const k of unsent) {
      const at = k.at + k.behind;
      if (k.operation === "doWait" && !k.job)
        now = waitDone(now, stepOf(k), bodyOf(k) as Parameters<typeof waitDone>[2], at);
      if (k.operation === "startWait") now = [...now, timer(k, at)];
    }
    return now;
  }, [waits, all, client]);
}

function timer(k: Kept, at: number): WaitView {
  const body = bodyOf(k) as { what: string; minutes: number };
  return {
    id: ownIdOf(k) ?? k.key,
    what: body.what,
    began_at: new Date(at).toISOString(),
    least_at: new Date(at + body.minutes * 60_000).toISOString(),
  };
}
