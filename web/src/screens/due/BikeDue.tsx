import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Bike, type DueTask } from "../../api/client";
import { bikeDueOptions, reportsOptions } from "../../api/queries";
import { Button, Input, PressButton } from "../../ui/controls";
import { FormDialog } from "../../ui/FormDialog";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { Failure, Field, Tick, Waiting } from "../../ui/parts";
import { faultAt, useWrite } from "../../ui/sending";
import { held, signOf } from "../../ui/units";
import { eventName, titleOf } from "../../words/due";
import { reported } from "./due";
import { Report } from "./Reports";
import { SecretLinks } from "./SecretLinks";
import { TaskLine } from "./TaskLine";

/** What a bike needs, most urgent first, with why; what was done and what happened is noted here. */
export function BikeDue({ bike }: { bike: Bike }) {
  const due = useQuery(bikeDueOptions(bike.tag));
  const [shown, setShown] = useState<DueTask | "event" | null>(null);
  const [all, setAll] = useState(false);
  if (due.isPending) return <Waiting what="what this bike needs" />;
  if (due.data === undefined)
    return (
      <section className="card card-border bg-base-100 p-4">
        <Failure error={due.error} again={() => due.refetch()} />
      </section>
    );
  const d = due.data;
  const pressing = d.tasks.filter((t) => t.state !== "fresh" || d.visit.includes(t.code));
  const tasks = all ? d.tasks : pressing;
  return (
    <section className="card card-border bg-base-100" aria-label="What it needs">
      <div className="flex flex-wrap items-center justify-between gap-2 px-4 pt-3">
        <h2 className="text-lg">{pressing.length === 0 ? "Nothing is due" : "What it needs"}</h2>
        {!bike.archived && <Button onClick={() => setShown("event")}>Report rain, noise, skipping …</Button>}
      </div>
      {d.visit.length > 1 && d.saved_min > 0 && (
        <p className="px-4 text-note text-quiet">
          {d.visit.length} things in one visit save {d.saved_min} min.
        </p>
      )}
      {(d.broken ?? []).length > 0 && (
        <p role="alert" className="mx-4 mt-2 border-l-4 border-error bg-base-200 px-3 py-2 text-note">
          {d.broken?.length === 1 ? "One entry" : `${d.broken?.length} entries`} of this bike's history cannot be read
          and {d.broken?.length === 1 ? "does" : "do"} not count. They stand in the history below, where they can be
          voided.
        </p>
      )}
      {d.needed_on && (
        <p className="px-4 text-note">
          Needed on {d.needed_on}
          {bike.facts.needed_for && `: ${bike.facts.needed_for}`}
        </p>
      )}
      <Told tag={bike.tag} />
      <ul className="mt-1">
        {tasks.map((t) => (
          <li key={t.code} className="flex border-t border-base-300 px-4 py-2">
            <TaskLine task={t} today={d.day}>
              {!bike.archived && !t.by_record && (
                <Button kind="quiet" className="-ml-4 text-note" onClick={() => setShown(t)}>
                  Mark done or change interval
                </Button>
              )}
            </TaskLine>
          </li>
        ))}
      </ul>
      <div className="flex flex-wrap gap-2 border-t border-base-300 px-4 py-2">
        {d.tasks.length > pressing.length && (
          <Button aria-expanded={all} kind="quiet" className="-ml-4 text-note" onClick={() => setAll(!all)}>
            {all ? "Due only" : `Show all ${d.tasks.length} tasks`}
          </Button>
        )}
      </div>
      <div className="flex flex-wrap gap-2 border-t border-base-300 px-4 py-3">
        <SecretLinks kind="owner" tag={bike.tag} />
        <SecretLinks kind="calendar-bike" tag={bike.tag} />
      </div>
      {shown === "event" && <EventDialog tag={bike.tag} close={() => setShown(null)} />}
      {shown !== null && shown !== "event" && <TaskDialog bike={bike} task={shown} close={() => setShown(null)} />}
    </section>
  );
}

/** What the customer reported from their page, until somebody says what becomes of it. */
function Told({ tag }: { tag: string }) {
  const reports = useQuery(reportsOptions(tag)).data ?? [];
  if (reports.length === 0) return null;
  return (
    <ul className="mt-2 border-y border-base-300 bg-accent/10" aria-label="Customer reports">
      {reports.map((r) => (
        <Report key={r.id} report={r} />
      ))}
    </ul>
  );
}

function EventDialog({ tag, close }: { tag: string; close: () => void }) {
  const client = useQueryClient();
  const [event, setEvent] = useState("");
  const [note, setNote] = useState("");
  const send = useWrite(
    async (body: { event: string; note?: string }, key) => {
      const params = { path: { tag }, header: { "Idempotency-Key": key } };
      client.setQueryData(bikeDueOptions(tag).queryKey, await ask(api.POST("/bikes/{tag}/events", { params, body })));
      close();
    },
    [{ topic: "bike", tag }],
  );
  return (
    <FormDialog
      title="Report rain, noise, skipping …"
      action="Note it"
      pending={send.isPending}
      error={send.error}
      close={close}
      send={() => send.mutate({ event, ...(note.trim() ? { note: note.trim() } : {}) })}
    >
      <fieldset className="flex flex-wrap gap-1.5">
        <legend className="fieldset-legend">What</legend>
        {reported.map((e) => (
          <PressButton key={e} on={e === event} onClick={() => setEvent(e)}>
            {eventName(e)}
          </PressButton>
        ))}
      </fieldset>
      {faultAt(send.error, "event") && <p className="font-semibold text-error">Choose what happened.</p>}
      <Field label="Note">
        {(a) => (
          <Input {...a} name="event_note" maxLength={500} value={note} onChange={(e) => setNote(e.target.value)} />
        )}
      </Field>
    </FormDialog>
  );
}

type OwnTask = { reason: string; every_hard_km?: number; every_days?: number };

/** A task that was done without a job, or that falls due otherwise on this bike. */
function TaskDialog({ bike, task, close }: { bike: Bike; task: DueTask; close: () => void }) {
  const own = bike.facts.tasks?.[task.code];
  const [off, setOff] = useState(own?.off ?? false);
  const done = useWrite<void>(
    (_, key) => {
      const params = { path: { tag: bike.tag, task: task.code }, header: { "Idempotency-Key": key } };
      return ask(api.POST("/bikes/{tag}/due/{task}", { params, body: {} }));
    },
    [{ topic: "bike", tag: bike.tag }],
    close,
  );
  const change = useWrite(
    (tasks: NonNullable<Bike["facts"]["tasks"]>) =>
      ask(
        api.PUT("/bikes/{tag}", {
          params: { path: { tag: bike.tag } },
          body: { version: bike.version, customer_id: bike.customer.id, facts: { ...bike.facts, tasks } },
        }),
      ),
    [{ topic: "bike", tag: bike.tag }],
    close,
  );
  const form = useForm({
    start: {
      every_hard_km: held("distance", own?.every_hard_km),
      every_days: own?.every_days?.toString() ?? "",
      reason: own?.reason ?? "",
    },
    reads: field.facts<OwnTask>(
      field.object({
        every_hard_km: field.measured("distance", own?.every_hard_km),
        every_days: field.whole,
        reason: field.line,
      }),
    ),
    by: change,
    at: `facts.tasks.${task.code}`,
  });
  const save = () =>
    form.submit((typed) => {
      const { [task.code]: _, ...others } = bike.facts.tasks ?? {};
      const nothing = typed.every_hard_km === undefined && typed.every_days === undefined && !off;
      change.mutate(nothing ? others : { ...others, [task.code]: { ...typed, ...(off ? { off } : {}) } });
    });
  return (
    <FormDialog
      title={titleOf(task)}
      action="Keep this bike's own"
      back="Close"
      pending={change.isPending}
      error={change.error ?? done.error}
      close={close}
      send={save}
    >
      <Button kind="main" className="self-start" disabled={done.isPending} onClick={() => done.mutate()}>
        Done today, outside of a job
      </Button>
      <fieldset className="flex flex-col gap-3 border-t border-base-300 pt-3">
        <legend className="fieldset-legend">Different on this bike; empty means as the shop has it</legend>
        <div className="grid grid-cols-2 gap-3">
          <Field label="Every" unit={`wear ${signOf("distance")}`} fault={form.fault("every_hard_km")}>
            {(a) => <Input {...a} {...form.text("every_hard_km")} name="every_km" inputMode="numeric" maxLength={6} />}
          </Field>
          <Field label="Every" unit="days" fault={form.fault("every_days")}>
            {(a) => <Input {...a} {...form.text("every_days")} inputMode="numeric" maxLength={4} />}
          </Field>
        </div>
        <Tick on={off} set={setOff}>
          Not on this bike at all
        </Tick>
        <Field label="Why" fault={form.fault("reason")}>
          {(a) => <Input {...a} {...form.text("reason")} name="task_reason" maxLength={300} />}
        </Field>
      </fieldset>
    </FormDialog>
  );
}
