import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Job, type JobPart, type NewFinding } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Input, Select, TextArea } from "../../ui/controls";
import { FormDialog } from "../../ui/FormDialog";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { Choice, Field } from "../../ui/parts";
import { faultAt, useWrite } from "../../ui/sending";
import { severityWords } from "../../words/work";
import { useJobWords } from "./JobWords";

/** Notes something that was found; what must hold the bike holds it. */
export function FindingDialog({ job, close }: { job: Job; close: () => void }) {
  const client = useQueryClient();
  const { findings } = useJobWords();
  const [code, setCode] = useState("");
  const [severity, setSeverity] = useState<"note" | "soon" | "stop">();
  const kind = findings.find((w) => w.code === code);
  const send = useWrite(
    async (body: NewFinding, key) => {
      const params = { path: { job: job.id }, header: { "Idempotency-Key": key } };
      client.setQueryData(keys.job(job.id), await ask(api.POST("/jobs/{job}/findings", { params, body })));
      close();
    },
    [{ topic: "job", tag: job.tag }],
  );
  const form = useForm({
    start: { place: "", note: "" },
    reads: field.facts<{ place?: string; note?: string }>(field.object({ place: field.words, note: field.words })),
    by: send,
  });
  return (
    <FormDialog
      title="What was found"
      action="Note it"
      pending={send.isPending}
      error={send.error}
      close={close}
      send={() => form.submit((said) => send.mutate({ code, ...(severity ? { severity } : {}), ...said }))}
    >
      <Field label="Fault found" fault={faultAt(send.error, "code")}>
        {(a) => (
          <Select
            {...a}
            name="finding"
            value={code}
            onChange={(e) => {
              setCode(e.target.value);
              setSeverity(undefined);
            }}
          >
            <option value="">Choose</option>
            {findings.map((w) => (
              <option key={w.code} value={w.code}>
                {w.says}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {kind &&
        (kind.fixed ? (
          <p className="font-semibold text-error">
            Holds the bike until it is fixed, or a mechanic signs that the customer was told.
          </p>
        ) : (
          <Choice
            label="How bad"
            value={severity ?? kind.severity}
            options={(["note", "soon", "stop"] as const).map((value) => ({ value, words: severityWords[value] }))}
            choose={setSeverity}
          />
        ))}
      <Field label="Where">{(a) => <Input {...a} {...form.text("place")} maxLength={200} />}</Field>
      <Field label="Note" fault={form.fault("note")}>
        {(a) => <Input {...a} {...form.text("note")} maxLength={2000} />}
      </Field>
    </FormDialog>
  );
}

export function NoteDialog({ job, close }: { job: Job; close: () => void }) {
  const client = useQueryClient();
  const [text, setText] = useState("");
  const send = useWrite(
    async (body: { text: string }, key) => {
      const params = { path: { job: job.id }, header: { "Idempotency-Key": key } };
      client.setQueryData(keys.job(job.id), await ask(api.POST("/jobs/{job}/notes", { params, body })));
      close();
    },
    [{ topic: "job", tag: job.tag }],
  );
  return (
    <FormDialog
      title="Note"
      action="Write it down"
      pending={send.isPending}
      error={send.error}
      close={close}
      send={() => send.mutate({ text })}
    >
      <Field label="Note" fault={faultAt(send.error, "text")}>
        {(a) => (
          <TextArea
            {...a}
            name="text"
            rows={3}
            maxLength={4000}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        )}
      </Field>
    </FormDialog>
  );
}

const usualParts = [
  "Brake pads",
  "Gear cable",
  "Brake cable",
  "Outer casing",
  "Inner tube",
  "Tyre",
  "Jockey wheels",
  "Bolt",
];

/** A part that was fitted or used up, with its price for the owner. */
export function PartDialog({ job, close }: { job: Job; close: () => void }) {
  const client = useQueryClient();
  const currency = job.plan?.quote.currency ?? "EUR";
  const send = useWrite(
    async (body: JobPart, key) => {
      const params = { path: { job: job.id }, header: { "Idempotency-Key": key } };
      client.setQueryData(keys.job(job.id), await ask(api.POST("/jobs/{job}/parts", { params, body })));
      close();
    },
    [{ topic: "job", tag: job.tag }],
  );
  const form = useForm({
    start: { what: "", count: "1", price: "" },
    reads: field.facts<JobPart>(
      field.object({ what: field.line, count: field.orElse(field.whole, 0), price: field.money(currency) }),
    ),
    by: send,
  });
  return (
    <FormDialog
      title="A part that was used"
      action="Note the part"
      pending={send.isPending}
      error={send.error}
      close={close}
      send={() => form.submit((part) => send.mutate(part))}
    >
      <p className="text-note text-quiet">A chain, its joining link and the cassette are noted under Replace.</p>
      <div className="flex flex-wrap gap-1.5">
        {usualParts.map((p) => (
          <Button key={p} onClick={() => form.set({ what: p })} className="border-base-300 px-3 font-normal">
            {p}
          </Button>
        ))}
      </div>
      <Field label="Part" fault={form.fault("what")}>
        {(a) => <Input {...a} {...form.text("what")} name="part" maxLength={200} />}
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field label="How many" fault={form.fault("count")}>
          {(a) => <Input {...a} {...form.text("count")} inputMode="numeric" maxLength={2} />}
        </Field>
        <Field label="Price of one" unit={currency} fault={form.fault("price")}>
          {(a) => <Input {...a} {...form.text("price")} inputMode="decimal" />}
        </Field>
      </div>
    </FormDialog>
  );
}
