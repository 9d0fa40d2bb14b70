import type { ReactNode } from "react";
import { api, ask, Problem } from "../../api/client";
import { Button } from "../../ui/controls";
import { useDistance } from "../../ui/distance";
import { dayAndTime, whole } from "../../ui/format";
import { Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
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
