import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { api, ask, Problem } from "../../api/client";
import { waitingReportsOptions } from "../../api/queries";
import { Button } from "../../ui/controls";
import { useDistance } from "../../ui/distance";
import { dayAndTime, whole } from "../../ui/format";
import { Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { eventName } from "../../words/due";

type Told = { id: string; told_at: string; km?: number; event?: string; note?: string };

/** What a customer reported, and what becomes of it: accepted it counts, dismissed it does not. */
export function Report({ report: r, children }: { report: Told; children?: ReactNode }) {
  const d = useDistance();
  const decide = useWrite(
    (made: { confirm: boolean; new_computer?: boolean }) =>
      ask(api.PUT("/owner-reports/{report}", { params: { path: { report: r.id } }, body: made })),
    [{ topic: "bike" }],
  );
  const lower = decide.error instanceof Problem && decide.error.body.code === "lower-than-last";
  return (
    <li className="flex flex-col gap-2 px-4 py-2" data-testid="report">
      {children}
      <p className="break-words">
        The customer reports:{" "}
        {[
          r.event && eventName(r.event).toLowerCase(),
          r.km !== undefined && `odometer ${whole(d.of(r.km))} ${d.unit}`,
          r.note && `“${r.note}”`,
        ]
          .filter(Boolean)
          .join(", ")}
        <span className="text-fine text-quiet"> {dayAndTime(r.told_at)}</span>
      </p>
      <div className="flex flex-wrap gap-2">
        <Button disabled={decide.isPending} onClick={() => decide.mutate({ confirm: true })}>
          Accept
        </Button>
        {lower && (
          <Button onClick={() => decide.mutate({ confirm: true, new_computer: true })}>New bike computer fitted</Button>
        )}
        <Button kind="quiet" disabled={decide.isPending} onClick={() => decide.mutate({ confirm: false })}>
          Dismiss
        </Button>
      </div>
      {decide.isError && <Failure error={decide.error} />}
    </li>
  );
}

/** What customers of any bike reported and nobody decided on, over what is due. */
export function WaitingReports() {
  const reports = useQuery(waitingReportsOptions).data ?? [];
  if (reports.length === 0) return null;
  return (
    <section className="card card-border border-l-4 border-l-accent bg-base-100" aria-label="Customer reports">
      <h2 className="px-4 pt-3 text-lg">
        {reports.length === 1 ? "A customer report" : `${reports.length} customer reports`}
      </h2>
      <ul className="divide-y divide-base-300">
        {reports.map((r) => (
          <Report key={r.id} report={r}>
            <Link to={`/bikes/${r.tag}`} className="flex min-h-(--target) min-w-0 items-center gap-3">
              <Tag tag={r.tag} size="small" />
              <span className="min-w-0 truncate">
                <b>{r.customer}</b> <span className="text-quiet">{r.bike}</span>
              </span>
            </Link>
          </Report>
        ))}
      </ul>
    </section>
  );
}
