import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, ask, type DueRow, type DueState } from "../../api/client";
import { dueOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, PressButton } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { ago } from "../../ui/format";
import { Heading } from "../../ui/Heading";
import { Counted } from "../../ui/ListHead";
import { Plate } from "../../ui/Plate";
import { Empty, Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { messageWords } from "../../words/due";
import { DueHead } from "./DueHead";
import { SecretLinks } from "./SecretLinks";
import { TaskLine } from "./TaskLine";

const sorts = {
  due: "Due now",
  late: "Late",
  week: "This week",
  quiet: "Not contacted",
  all: "Everything",
} as const;
type Sort = keyof typeof sorts;

const filterOf: Record<Sort, { state?: DueState; within?: number; upcoming?: boolean; quiet?: boolean }> = {
  due: { state: "due" },
  late: { state: "overdue" },
  week: { within: 7, upcoming: true },
  quiet: { state: "due", quiet: true },
  all: {},
};

/** Who to call: bikes by what they need most, with why, and who was told of it. */
export function DuePlace() {
  const [params, setParams] = useSearchParams();
  const sort = (params.get("show") ?? "due") as Sort;
  const customer = params.get("owner") ?? undefined;
  const due = useInfiniteQuery(dueOptions({ ...(filterOf[sort] ?? filterOf.due), ...(customer ? { customer } : {}) }));
  const rows = due.data?.pages.flatMap((p) => p.rows) ?? [];
  const choose = (next: Sort) =>
    setParams((p) => {
      p.set("show", next);
      return p;
    });
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Due</Heading>
      <DueHead />
      <div className="flex flex-wrap items-center justify-between gap-3">
        <fieldset className="flex flex-wrap gap-1.5" aria-label="Which bikes">
          {(Object.keys(sorts) as Sort[]).map((s) => (
            <PressButton key={s} on={s === sort} onClick={() => choose(s)}>
              {sorts[s]}
            </PressButton>
          ))}
        </fieldset>
        {customer && (
          <ButtonLink to={`/due?show=${sort}`} kind="quiet">
            {rows[0]?.customer.name ?? "One customer"} only: show every customer
          </ButtonLink>
        )}
        <SecretLinks kind="calendar-shop" />
      </div>
      <Fetched query={due} what="what is due">
        {(d) =>
          rows.length === 0 ? (
            <div className="card card-border bg-base-100">
              <Empty title={sort === "due" || sort === "late" ? "Nothing is due here." : "No bikes here."}>
                <p>Bikes stand here by what they need most, when their time, their distance or an event says so.</p>
                <ButtonLink to="/bikes">To the bikes</ButtonLink>
              </Empty>
            </div>
          ) : (
            <>
              <Counted total={d.pages[0]?.total} one="bike" />
              <ul className="flex flex-col gap-3">
                {rows.map((r) => (
                  <Row key={r.tag} row={r} today={d.pages[0]?.day ?? ""} />
                ))}
              </ul>
            </>
          )
        }
      </Fetched>
      {due.hasNextPage && (
        <Button className="self-center" disabled={due.isFetchingNextPage} onClick={() => due.fetchNextPage()}>
          {due.isFetchingNextPage ? "Fetching…" : "Show more"}
        </Button>
      )}
    </div>
  );
}

function Row({ row: r, today }: { row: DueRow; today: string }) {
  const [open, setOpen] = useState(false);
  const navigate = useNavigate();
  const draft = useWrite(
    () => ask(api.POST("/bikes/{tag}/draft", { params: { path: { tag: r.tag } } })),
    [{ topic: "message" }],
    () => navigate("/due/messages"),
  );
  const first = open ? r.tasks : r.tasks.slice(0, 2);
  const more = r.tasks.length - first.length;
  const told = r.told_state === "draft" || r.told_state === "queued";
  return (
    <li
      className="card card-border bg-base-100 grid gap-x-6 gap-y-3 p-4 lg:grid-cols-[260px_minmax(0,1fr)_200px]"
      data-testid="due-row"
    >
      <div className="flex min-w-0 flex-col items-start gap-1">
        <Link to={`/bikes/${r.tag}`} className="flex min-h-(--target) items-center gap-3">
          <Plate state={r.state} size={24} />
          <Tag tag={r.tag} size="small" />
        </Link>
        <Link
          to={`/customers/${r.customer.id}`}
          className="min-h-(--target) max-w-full content-center truncate font-semibold underline-offset-4 hover:underline"
        >
          {r.customer.name}
        </Link>
        <p className="max-w-full truncate text-note text-quiet">{r.bike}</p>
        <Link
          to={`/due?show=all&owner=${r.customer.id}`}
          className="min-h-(--target) content-center text-note underline underline-offset-4"
        >
          All of this customer's
        </Link>
      </div>
      <ul className="flex min-w-0 flex-col gap-2">
        {first.map((t) => (
          <li key={t.code} className="flex">
            <TaskLine task={t} today={today} />
          </li>
        ))}
        {(more > 0 || open) && (
          <li>
            <Button aria-expanded={open} kind="quiet" className="-ml-4 text-note" onClick={() => setOpen(!open)}>
              {open
                ? "Fewer"
                : `${more} more in the same visit${r.saved_min > 0 ? `, which saves ${r.saved_min} min` : ""}`}
            </Button>
          </li>
        )}
      </ul>
      <div className="flex flex-wrap items-center gap-2 lg:flex-col lg:items-stretch">
        {r.job ? (
          <ButtonLink to={`/jobs/${r.job}`}>In the workshop</ButtonLink>
        ) : (
          <ButtonLink to={`/bikes/${r.tag}/clean`} may="openJob">
            Book in
          </ButtonLink>
        )}
        {told ? (
          <ButtonLink to="/due/messages">{r.told_state === "draft" ? "Read the draft" : "On its way"}</ButtonLink>
        ) : r.may_tell ? (
          <Button
            may="draftRecall"
            disabled={draft.isPending || r.state === "fresh" || r.state === "soon"}
            onClick={() => draft.mutate()}
          >
            Draft a message
          </Button>
        ) : (
          <p className="text-fine text-quiet">No contact by message or email.</p>
        )}
        {r.told_at && !told && (
          <p className="text-fine text-quiet">
            {messageWords[r.told_state ?? ""]} {ago(r.told_at)}
          </p>
        )}
        {draft.isError && <Failure error={draft.error} />}
      </div>
    </li>
  );
}
