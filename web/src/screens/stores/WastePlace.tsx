import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, ask, type WasteRow } from "../../api/client";
import { wasteOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Input } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { dayAndTime } from "../../ui/format";
import { useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Choice, Empty, Failure, Field } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { StoresHead } from "./StoresHead";
import { wasteAmount, wasteKinds, wasteKindWords, wasteUnit, wasteWords } from "./waste";

/** The waste log of the last year, for print, and a line to add to it. */
export function WastePlace() {
  const waste = useQuery(wasteOptions);
  const shop = useSession().shop;
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4 print:p-0">
      <StoresHead />
      <div className="flex flex-wrap items-center justify-between gap-3">
        <Heading className="text-xl">
          Waste log<span className="hidden print:inline">, {shop.name}</span>
        </Heading>
        <Button className="no-print" onClick={() => window.print()}>
          Print
        </Button>
      </div>
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3 lg:grid-cols-[minmax(0,1fr)_340px] print:grid-cols-1">
        <section className="card card-border bg-base-100 self-start" aria-label="Waste">
          <Fetched query={waste} what="the waste log">
            {(rows) =>
              rows.length === 0 ? (
                <Empty title="Nothing was thrown away yet.">
                  <p>What a renewed bath held stands here by itself; jugs and rags are noted by hand.</p>
                </Empty>
              ) : (
                <>
                  <dl className="flex flex-wrap gap-x-8 gap-y-2 px-4 py-3">
                    {wasteKinds.map(({ kind, words }) => (
                      <div key={kind}>
                        <dt className="text-fine font-semibold text-quiet">{words}, a year</dt>
                        <dd className="font-mono text-lg font-semibold">{sum(rows, kind)}</dd>
                      </div>
                    ))}
                  </dl>
                  <ul>
                    {rows.map((r) => (
                      <li
                        key={r.id}
                        data-testid="waste"
                        className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-4 border-t border-base-300 px-4 py-1.5 sm:grid-cols-[170px_minmax(0,1fr)_110px]"
                      >
                        <span className="text-note text-quiet">{dayAndTime(r.at)}</span>
                        <span className="min-w-0 wrap-anywhere max-sm:order-last max-sm:col-span-2">
                          {wasteKindWords(r.kind)}
                          {r.note && <span className="text-quiet">, {r.note}</span>}{" "}
                          <span className="text-quiet">{r.by}</span>{" "}
                          {r.tag && (
                            <Link to={`/bikes/${r.tag}`}>
                              <Tag tag={r.tag} />
                            </Link>
                          )}
                        </span>
                        <span className="text-right font-mono font-semibold">{wasteWords(r.kind, r.amount)}</span>
                      </li>
                    ))}
                  </ul>
                </>
              )
            }
          </Fetched>
        </section>
        <NoteWaste />
      </div>
      <p className="text-note text-quiet">
        Dispose through your local authority or waste contractor; never to drain or ground.
      </p>
    </div>
  );
}

function sum(rows: WasteRow[], kind: WasteRow["kind"]): string {
  const of = rows.filter((r) => r.kind === kind);
  return wasteWords(
    kind,
    of.reduce((all, r) => all + r.amount, 0),
  );
}

const wasteOf = (kind: WasteRow["kind"]) =>
  field.facts<{ amount: number; note?: string }>(
    field.object({
      amount: field.reading((text) => {
        const is = wasteAmount(kind, text);
        return is === undefined ? { wrong: "About how much?" } : { is };
      }),
      note: field.words,
    }),
  );

const nothingYet = { amount: "", note: "" };

function NoteWaste() {
  const [kind, setKind] = useState<WasteRow["kind"]>("oily-water");
  const job = useSearchParams()[0].get("job");
  const send = useWrite(
    (body: { kind: string; amount: number; note?: string; job_id?: string }, key) =>
      ask(api.POST("/waste", { params: { header: { "Idempotency-Key": key } }, body })),
    [{ topic: "stores" }],
    () => form.restart(nothingYet),
  );
  const form = useForm({ start: nothingYet, reads: wasteOf(kind), by: send });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    form.submit((waste) => send.mutate({ kind, ...waste, ...(job ? { job_id: job } : {}) }));
  };
  return (
    <form
      className="card card-border bg-base-100 no-print flex flex-col gap-3 self-start p-4"
      noValidate
      onSubmit={submit}
    >
      <h2 className="text-lg">Note waste</h2>
      <Choice
        label="What"
        value={kind}
        options={wasteKinds.map((k) => ({ value: k.kind, words: k.words }))}
        choose={setKind}
      />
      <Field label="About" unit={wasteUnit(kind)} fault={form.fault("amount")}>
        {(a) => <Input {...a} {...form.text("amount")} inputMode="decimal" />}
      </Field>
      <Field label="Where it went">
        {(a) => <Input {...a} {...form.text("note")} name="waste_note" maxLength={200} />}
      </Field>
      {form.failure && <Failure error={form.failure} />}
      <Button type="submit" kind="main" disabled={send.isPending}>
        Note it
      </Button>
      {job && <ButtonLink to={`/jobs/${job}`}>Back to the job</ButtonLink>}
    </form>
  );
}
