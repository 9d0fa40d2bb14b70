import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Material, type MaterialFacts } from "../../api/client";
import { materialsOptions, needsOptions, rulesOptions, stockOptions } from "../../api/queries";
import { Button, Input, Key, Select } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { EditDialog } from "../../ui/FormDialog";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { plain } from "../../ui/format";
import { useCommands, useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Counted } from "../../ui/ListHead";
import { money, typedMoney } from "../../ui/money";
import { Empty, Field, Tick } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { held, materialAmount, signOf, typed, understood } from "../../ui/units";
import { speeds } from "../../words/bikes";
import { familyWords, materialKinds, materialWords } from "../../words/work";
import { number } from "../bikes/draft";
import { Mixing } from "./Mixing";
import { StoresHead } from "./StoresHead";

const kindOf = { ml: "volume", g: "mass", piece: undefined } as const;
const unitWords = (unit: Material["unit"]) => {
  const kind = kindOf[unit];
  return kind ? signOf(kind) : "pieces";
};
const shownIn = (unit: Material["unit"], v: number) => {
  const kind = kindOf[unit];
  return kind ? held(kind, v) : plain(v, v >= 20 ? 0 : 1);
};

/** What cleans and lubricates: how much there is, what a step draws from, and what is to be ordered. */
export function FluidsPlace() {
  const materials = useQuery(materialsOptions);
  const currency = useQuery(rulesOptions).data?.rules.currency ?? "EUR";
  const [editing, setEditing] = useState<Material | "new" | null>(null);
  useCommands({ n: { words: "Add something to stock", may: "addMaterial", run: () => setEditing("new") } });
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <StoresHead />
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3 lg:grid-cols-[minmax(0,1fr)_360px]">
        <div className="flex min-w-0 flex-col gap-3">
          <div className="flex flex-wrap items-center justify-between gap-3">
            <Heading className="text-xl">Fluids and materials</Heading>
            <Button kind="main" may="addMaterial" className="max-sm:w-full" onClick={() => setEditing("new")}>
              Add to stock <Key>N</Key>
            </Button>
          </div>
          <section className="card card-border bg-base-100" aria-label="Materials">
            <Fetched query={materials} what="the materials">
              {(all) =>
                all.length === 0 ? (
                  <Empty title="Nothing is counted yet.">
                    <p>Enter degreaser, oil, wax and the rest. Each step of a job then draws what it takes.</p>
                  </Empty>
                ) : (
                  <>
                    <Counted total={all.length} one="line" />
                    <ul>
                      {all.map((m) => (
                        <li key={m.id} data-testid="material">
                          <Button
                            onClick={() => setEditing(m)}
                            kind="row"
                            className="gap-4 rounded-none border-t border-base-300 py-2"
                          >
                            <span className="min-w-0 grow">
                              <span className="block font-semibold break-words">{m.facts.name}</span>
                              <span className="block text-note text-quiet">
                                {materialWords(m.kind)}
                                {m.facts.pack_size !== undefined &&
                                  m.facts.pack_cost !== undefined &&
                                  `, ${money(m.facts.pack_cost, currency)} for ${materialAmount(m.facts.pack_size, m.unit)}`}
                              </span>
                            </span>
                            <span className="shrink-0 text-right sm:w-36">
                              <span className="font-mono text-xl font-semibold">
                                {shownIn(m.unit, m.facts.quantity)}
                              </span>{" "}
                              <span className="text-note">{unitWords(m.unit)}</span>
                              <span
                                className={`block text-fine ${m.low ? "font-semibold text-due-ink" : "text-quiet"}`}
                              >
                                {m.low
                                  ? `order: low at ${materialAmount(m.facts.low_mark, m.unit)}`
                                  : `low at ${materialAmount(m.facts.low_mark, m.unit)}`}
                              </span>
                            </span>
                          </Button>
                        </li>
                      ))}
                    </ul>
                  </>
                )
              }
            </Fetched>
          </section>
        </div>
        <div className="flex min-w-0 flex-col gap-3">
          <Orders materials={materials.data ?? []} />
          <Mixing />
        </div>
      </div>
      {editing && (
        <MaterialForm
          key={editing === "new" ? "new" : editing.id}
          material={editing === "new" ? null : editing}
          currency={currency}
          close={() => setEditing(null)}
        />
      )}
    </div>
  );
}

/** Everything at or below its mark, and the chains and links that will be needed within a month. */
function Orders({ materials }: { materials: Material[] }) {
  const stock = useQuery(stockOptions(false)).data ?? [];
  const needs = useQuery(needsOptions).data ?? [];
  const rows = [
    ...materials
      .filter((m) => m.low)
      .map((m) => ({ what: m.facts.name, why: `${materialAmount(m.facts.quantity, m.unit)} left` })),
    ...stock.filter((i) => i.low).map((i) => ({ what: i.facts.name, why: `${i.facts.quantity} left` })),
    ...needs
      .filter((n) => n.short > 0)
      .map((n) => ({ what: `${speeds(n.sprockets)} chains`, why: `${n.short} short within 30 days` })),
  ];
  return (
    <section className="card card-border bg-base-100 p-4" aria-label="Order list">
      <h2 className="text-lg">To order</h2>
      {rows.length === 0 ? (
        <p className="mt-1 text-quiet">Nothing is at its low mark.</p>
      ) : (
        <ul className="mt-1">
          {rows.map((r) => (
            <li key={r.what} className="flex justify-between gap-3 border-t border-base-300 py-1.5" data-testid="order">
              <span className="min-w-0 break-words">{r.what}</span>
              <span className="shrink-0 text-note text-due-ink">{r.why}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

type CardNumber =
  | "product_parts"
  | "water_parts"
  | "dwell_least_min"
  | "dwell_most_min"
  | "temp_least_c"
  | "temp_most_c";

type AmountName = "quantity" | "low_mark" | "pack_size";

type Sent = { kind: string; facts: MaterialFacts; version: number; retired: boolean };

/** What a draft means: amounts in the unit in which the fluid is kept, which a new one has not yet. */
const fluidOf = (of: Material | null, currency: string) => {
  const kept = of && kindOf[of.unit];
  const amount = (name: AmountName) => (kept ? field.measured(kept, of.facts[name]) : field.number);
  return field.facts<Omit<MaterialFacts, "card"> & { kind: string }>(
    field.object({
      kind: field.line,
      name: field.line,
      quantity: field.orElse(amount("quantity"), 0),
      low_mark: field.orElse(amount("low_mark"), 0),
      pack_size: amount("pack_size"),
      pack_cost: field.money(currency),
      family: field.reading<MaterialFacts["family"]>((text) => ({
        is: (text || undefined) as MaterialFacts["family"],
      })),
      place: field.words,
    }),
  );
};

function MaterialForm(props: { material: Material | null; currency: string; close: () => void }) {
  const { material, currency, close } = props;
  const f = material?.facts;
  const shown = (n: number | undefined) => (n === undefined || !material ? "" : shownIn(material.unit, n));
  const [card, setCard] = useState(f?.card ?? {});
  const [numbered, setNumbered] = useState<Partial<Record<CardNumber, string>>>({});
  const send = useWrite(
    ({ kind, facts, version, retired }: Sent, key) =>
      material
        ? ask(
            api.PUT("/materials/{material}", {
              params: { path: { material: material.id } },
              body: { version, facts, retired },
            }),
          )
        : ask(api.POST("/materials", { params: { header: { "Idempotency-Key": key } }, body: { kind, facts } })),
    [{ topic: "stores" }],
    close,
  );
  const form = useForm({
    start: {
      kind: material?.kind ?? "degreaser",
      name: f?.name ?? "",
      quantity: shown(f?.quantity),
      low_mark: shown(f?.low_mark),
      pack_size: shown(f?.pack_size),
      pack_cost: f?.pack_cost === undefined ? "" : typedMoney(f.pack_cost, currency),
      family: f?.family ?? "",
      place: f?.place ?? "",
    },
    reads: fluidOf(material, currency),
    by: send,
    at: "facts",
  });
  const { typed: draft } = form;
  const submit = (version: number, retired = false) =>
    form.submit(({ kind, ...facts }) => send.mutate({ kind, facts: { ...facts, card }, version, retired }));
  const unit = material ? unitWords(material.unit) : undefined;
  const measured = material && kindOf[material.unit];
  const prices = useSession().has.includes("settings"); // who may not set prices is not asked for one
  const line = (name: keyof typeof draft, label: string, more: { unit?: string | undefined; hint?: string } = {}) => (
    <Field
      label={label}
      unit={more.unit}
      hint={
        (measured &&
          name !== "name" &&
          name !== "pack_cost" &&
          name !== "place" &&
          name !== "family" &&
          understood(measured, draft[name])) ||
        more.hint
      }
      fault={form.fault(name)}
    >
      {(a) => (
        <Input
          {...a}
          {...form.text(name)}
          inputMode={name === "name" || name === "place" ? "text" : "decimal"}
          maxLength={name === "name" ? 120 : name === "place" ? 80 : 12}
        />
      )}
    </Field>
  );
  const label = (name: CardNumber, words: string, unit?: string) => (
    <Field label={words} unit={unit} fault={form.fault(`card.${name}`)}>
      {(a) => (
        <Input
          {...a}
          name={`card_${name}`}
          inputMode="decimal"
          maxLength={8}
          value={numbered[name] ?? (name.startsWith("temp_") ? held("temperature", card[name]) : plain(card[name]))}
          onChange={(e) => {
            const v = name.startsWith("temp_")
              ? typed("temperature", e.target.value, f?.card[name])
              : number(e.target.value);
            const { [name]: _, ...others } = card;
            setNumbered({ ...numbered, [name]: e.target.value });
            setCard(v === undefined ? others : { ...others, [name]: v });
          }}
        />
      )}
    </Field>
  );
  const tick = (name: "no_rinse" | "long_soak" | "flammable" | "alloy_safe" | "paint_safe", words: string) => (
    <Tick on={card[name] ?? false} set={(on) => setCard({ ...card, [name]: on })}>
      {words}
    </Tick>
  );
  return (
    <EditDialog<Material>
      title={material ? material.facts.name : "Add to stock"}
      action={material ? "Save" : "Add to stock"}
      send={(over) => submit(over ?? material?.version ?? 0)}
      pending={send.isPending}
      error={send.error}
      facts={(theirs) => theirs.facts}
      close={close}
      more={
        material && (
          <Button may="changeMaterial" onClick={() => submit(material.version, true)}>
            Remove
          </Button>
        )
      }
    >
      {!material && (
        <Field label="What it is" fault={form.fault("kind")}>
          {(a) => (
            <Select {...a} {...form.text("kind")}>
              {materialKinds.map((k) => (
                <option key={k} value={k}>
                  {materialWords(k)}
                </option>
              ))}
            </Select>
          )}
        </Field>
      )}
      {line("name", "Name", { hint: "As the shop calls it." })}
      {draft.kind === "oil" && (
        <Field label="Which oil" fault={form.fault("family")}>
          {(a) => (
            <Select {...a} {...form.text("family")}>
              <option value="">Not said</option>
              {(["wet-oil", "dry-oil", "all-weather"] as const).map((o) => (
                <option key={o} value={o}>
                  {familyWords[o]}
                </option>
              ))}
            </Select>
          )}
        </Field>
      )}
      {line("place", "Where it stands", { hint: "Shelf 2, say: the step at the stand names it." })}
      <div className="grid grid-cols-2 gap-3">
        {line("quantity", "You have", { unit })}
        {line("low_mark", "Order at", { unit })}
        {line("pack_size", "A pack holds", { unit })}
        {prices && line("pack_cost", "A pack costs", { unit: currency })}
      </div>
      <fieldset>
        <legend className="fieldset-legend">Its label says</legend>
        <div className="grid sm:grid-cols-2">
          {tick("no_rinse", "Not rinsed off")}
          {tick("long_soak", "May soak beyond two hours")}
          {tick("alloy_safe", "Safe on alloy")}
          {tick("paint_safe", "Safe on paint")}
          {tick("flammable", "Flammable")}
        </div>
        <div className="mt-2 grid grid-cols-2 gap-3">
          {label("product_parts", "Parts of product")}
          {label("water_parts", "to parts of water")}
          {label("dwell_least_min", "Stays on at least", "min")}
          {label("dwell_most_min", "and at most", "min")}
          {draft.kind === "immersion-wax" && (
            <>
              {label("temp_least_c", "Pot from", signOf("temperature"))}
              {label("temp_most_c", "to", signOf("temperature"))}
            </>
          )}
        </div>
      </fieldset>
    </EditDialog>
  );
}
