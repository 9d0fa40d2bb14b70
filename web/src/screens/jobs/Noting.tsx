import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Job, type JobPart, type NewFinding } from "../../api/client";
import { Button, Input, Select, TextArea } from "../../ui/controls";
import { FormDialog } from "../../ui/FormDialog";
import { minorUnits, typedMoney } from "../../ui/money";
import { Choice, Field } from "../../ui/parts";
import { faultAt, useWrite } from "../../ui/sending";
import { useJobWords } from "./JobWords";
import { severityWords } from "./jobs";

/** Notes something that was found; what must hold the bike holds it. */
export function FindingDialog({ job, close }: { job: Job; close: () => void }) {
  const client = useQueryClient();
  const { findings } = useJobWords();
  const [code, setCode] = useState("");
  const [severity, setSeverity] = useState<"note" | "soon" | "stop">();
  const [place, setPlace] = useState("");
  const [note, setNote] = useState("");
  const kind = findings.find((w) => w.code === code);
  const send = useWrite(
    async (body: NewFinding, key) => {
      const params = { path: { job: job.id }, header: { "Idempotency-Key": key } };
      client.setQueryData(["jobs", job.id], await ask(api.POST("/jobs/{job}/findings", { params, body })));
      close();
    },
    [{ topic: "job", tag: job.tag }],
  );
  return (
    <FormDialog
      title="What was found"
      action="Note it"
      pending={send.isPending}
      error={send.error}
      close={close}
      send={() =>
        send.mutate({
          code,
          ...(severity ? { severity } : {}),
          ...(place.trim() ? { place: place.trim() } : {}),
          ...(note.trim() ? { note: note.trim() } : {}),
        })
      }
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
      <Field label="Where">
        {(a) => <Input {...a} name="place" maxLength={200} value={place} onChange={(e) => setPlace(e.target.value)} />}
      </Field>
      <Field label="Note" fault={faultAt(send.error, "note")}>
        {(a) => <Input {...a} name="note" maxLength={2000} value={note} onChange={(e) => setNote(e.target.value)} />}
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
      client.setQueryData(["jobs", job.id], await ask(api.POST("/jobs/{job}/notes", { params, body })));
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
  const [what, setWhat] = useState("");
  const [count, setCount] = useState("1");
  const [price, setPrice] = useState("");
  const [fault, setFault] = useState("");
  const send = useWrite(
    async (body: JobPart, key) => {
      const params = { path: { job: job.id }, header: { "Idempotency-Key": key } };
      client.setQueryData(["jobs", job.id], await ask(api.POST("/jobs/{job}/parts", { params, body })));
      close();
    },
    [{ topic: "job", tag: job.tag }],
  );
  const submit = () => {
    const each = price.trim() === "" ? undefined : minorUnits(price, currency);
    if (price.trim() !== "" && each === undefined) return setFault(`An amount such as ${typedMoney(1450, currency)}.`);
    setFault("");
    send.mutate({ what, count: Number(count) || 0, ...(each === undefined ? {} : { price: each }) });
  };
  return (
    <FormDialog
      title="A part that was used"
      action="Note the part"
      pending={send.isPending}
      error={send.error}
      close={close}
      send={submit}
    >
      <p className="text-note text-quiet">A chain, its joining link and the cassette are noted under Replace.</p>
      <div className="flex flex-wrap gap-1.5">
        {usualParts.map((p) => (
          <Button key={p} onClick={() => setWhat(p)} className="border-base-300 px-3 font-normal">
            {p}
          </Button>
        ))}
      </div>
      <Field label="Part" fault={faultAt(send.error, "what")}>
        {(a) => <Input {...a} name="part" maxLength={200} value={what} onChange={(e) => setWhat(e.target.value)} />}
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field label="How many" fault={faultAt(send.error, "count")}>
          {(a) => (
            <Input
              {...a}
              name="count"
              inputMode="numeric"
              maxLength={2}
              value={count}
              onChange={(e) => setCount(e.target.value)}
            />
          )}
        </Field>
        <Field label="Price of one" unit={currency} fault={fault || faultAt(send.error, "price")}>
          {(a) => (
            <Input {...a} name="price" inputMode="decimal" value={price} onChange={(e) => setPrice(e.target.value)} />
          )}
        </Field>
      </div>
    </FormDialog>
  );
}
