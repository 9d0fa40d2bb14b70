import type { ReactNode } from "react";
import type { DueTask } from "../../api/client";
import { useDistance } from "../../ui/distance";
import { Plate } from "../../ui/Plate";
import { titleOf } from "../../words/due";
import { dueLine, whyLine } from "./due";

const bar = { fresh: "bg-success", soon: "bg-warning", due: "bg-rust", overdue: "bg-error" } as const;

/** One task: its sign, how much of its interval is used, when it is due, and why. */
export function TaskLine({ task: t, today, children }: { task: DueTask; today: string; children?: ReactNode }) {
  const d = useDistance();
  return (
    <div className="flex min-w-0 grow items-start gap-3" data-testid={`task-${t.code}`} data-state={t.state}>
      <span className="mt-0.5">
        <Plate state={t.state} size={18} />
      </span>
      <div className="min-w-0 grow">
        <p className="flex flex-wrap items-baseline justify-between gap-x-3">
          <span className={t.state === "fresh" ? "" : "font-semibold"}>
            {titleOf(t)}
            {t.safety && <span className="text-fine font-normal text-quiet"> safety</span>}
          </span>
          <span className="font-mono text-note whitespace-nowrap">{dueLine(t, today)}</span>
        </p>
        {t.binds !== "" && (
          <div className="my-1 h-1.5 overflow-hidden rounded-full bg-base-300" aria-hidden>
            <div className={`h-full ${bar[t.state]}`} style={{ width: `${Math.min(100, 100 * t.used)}%` }} />
          </div>
        )}
        <p className="text-fine text-quiet">
          {whyLine(t, d)}
          {t.pulled && "; brought forward to before the day it is needed"}
          {t.reason && `; this bike's own: ${t.reason}`}
        </p>
        {children}
      </div>
    </div>
  );
}
