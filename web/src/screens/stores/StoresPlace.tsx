import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type StockFacts, type StockItem } from "../../api/client";
import { needsOptions, rulesOptions, stockOptions } from "../../api/queries";
import { Button, Input, Key } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { EditDialog } from "../../ui/FormDialog";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { useCommands, useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Counted } from "../../ui/ListHead";
import { money, typedMoney } from "../../ui/money";
import { Choice, Empty, Failure, Field, Tick } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { speeds } from "../../words/bikes";
import { StoresHead } from "./StoresHead";

/** The shelf: chains and joining links, and what the forecasts will ask of them. */
export function StoresPlace() {
  const stock = useQuery(stockOptions(false));
  const retired = useQuery(stockOptions(true));
  const [editing, setEditing] = useState<StockItem | "new" | null>(null);
  useCommands({ n: { words: "Put something new on the shelf", may: "addStock", run: () => setEditing("new") } });
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <StoresHead />
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3 lg:grid-cols-[minmax(0,1fr)_360px]">
        <div className="flex min-w-0 flex-col gap-3">
          <div className="flex flex-wrap items-center justify-between gap-3">
            <Heading className="text-xl">Chains and joining links</Heading>
            <Button kind="main" may="addStock" className="max-sm:w-full" onClick={() => setEditing("new")}>
              Put on the shelf <Key>N</Key>
            </Button>
          </div>
          <section className="card card-border bg-base-100" aria-label="On the shelf">
            <Fetched query={stock} what="the shelf">
              {(items) =>
                items.length === 0 ? (
                  <Empty title="The shelf is not counted yet.">
                    <p>Enter the chains and joining links there are. A replacement then takes what it uses.</p>
                  </Empty>
                ) : (
                  <>
                    <Counted total={items.length} one="line" />
                    <ul>
                      {items.map((i) => (
                        <Item key={i.id} item={i} edit={() => setEditing(i)} />
                      ))}
                    </ul>
                  </>
                )
              }
            </Fetched>
          </section>
          {(retired.data?.length ?? 0) > 0 && (
            <section className="card card-border bg-base-100" aria-label="No longer kept">
              <h2 className="text-fine font-semibold text-quiet px-4 pt-3 pb-1">No longer kept</h2>
              <ul>
                {retired.data?.map((i) => (
                  <Item key={i.id} item={i} edit={() => setEditing(i)} />
                ))}
              </ul>
            </section>
          )}
        </div>
        <div className="flex min-w-0 flex-col gap-3">
          <Needs />
        </div>
      </div>
      {editing && (
        <ItemForm
          key={editing === "new" ? "new" : editing.id}
          item={editing === "new" ? null : editing}
          close={() => setEditing(null)}
        />
      )}
    </div>
  );
}

const kindWords: Record<StockItem["kind"], string> = { chain: "chain", "joining-link": "joining link" };

function Item({ item: i, edit }: { item: StockItem; edit: () => void }) {
  const rules = useQuery(rulesOptions);
  return (
    <li data-testid="stock">
      <Button onClick={edit} kind="row" className="gap-x-4 rounded-none border-t border-base-300 py-2">
        <span className="min-w-0 grow">
          <span className="block font-semibold break-words">{i.facts.name}</span>
          <span className="block text-note text-quiet">
            {speeds(i.facts.sprockets)} {kindWords[i.kind]}
            {i.facts.box_links && `, box of ${i.facts.box_links}`}
            {i.facts.has_joining_link && ", joining link in it"}
            {i.facts.stated_uses && `, ${i.facts.stated_uses === 1 ? "one use" : `${i.facts.stated_uses} uses`} stated`}
          </span>
        </span>
        <span className="shrink-0 text-right sm:flex sm:items-center sm:gap-4">
          {i.facts.cost !== undefined && rules.data && (
            <span className="block font-mono text-note text-quiet">
              {money(i.facts.cost, rules.data.rules.currency)}
            </span>
          )}
          <span className="block sm:w-32">
            <span className="font-mono text-xl font-semibold">{i.facts.quantity}</span>
            <span className={`block text-fine ${i.low && !i.retired ? "font-semibold text-due-ink" : "text-quiet"}`}>
              {i.retired ? "not kept" : i.low ? `order: low at ${i.facts.low_mark}` : `low at ${i.facts.low_mark}`}
            </span>
          </span>
        </span>
      </Button>
    </li>
  );
}

/** What verdicts and forecasts will ask of the shelf within a month. */
function Needs() {
  const needs = useQuery(needsOptions);
  return (
    <section className="card card-border bg-base-100 p-4" aria-label="Needed within 30 days">
      <h2 className="text-lg">Needed within 30 days</h2>
      <Fetched query={needs} what="what will be needed">
        {(widths) =>
          widths.length === 0 ? (
            <p className="mt-1 text-quiet">No verdict and no forecast asks for a chain within a month.</p>
          ) : (
            <ul className="mt-1 flex flex-col gap-3">
              {widths.map((n) => (
                <li key={n.sprockets} data-testid="need">
                  <p className="flex items-baseline justify-between gap-3 border-t border-base-300 pt-2">
                    <b>
                      {n.bikes.length} {speeds(n.sprockets)} {n.bikes.length === 1 ? "chain" : "chains"}
                    </b>
                    <span className={n.short > 0 ? "font-semibold text-due-ink" : "text-quiet"}>
                      {n.short > 0 ? `${n.short} short` : "on the shelf"}
                    </span>
                  </p>
                  <p className="text-fine text-quiet">
                    On the shelf: {n.chains} {n.chains === 1 ? "chain" : "chains"}, {n.links} joining{" "}
                    {n.links === 1 ? "link" : "links"}
                  </p>
                  <ul>
                    {n.bikes.map((b) => (
                      <li key={b.tag}>
                        <Link
                          to={`/bikes/${b.tag}`}
                          className="flex min-h-(--target) items-center gap-2 text-note hover:bg-base-200"
                        >
                          <Tag tag={b.tag} />
                          <span className="min-w-0 grow truncate">{b.customer.name}</span>
                          <span className="shrink-0 text-quiet">
                            {b.order === "next"
                              ? "next order"
                              : b.days === undefined || b.order === "now"
                                ? "now"
                                : `in ${Math.max(1, Math.round(b.days))} d`}
                          </span>
                        </Link>
                      </li>
                    ))}
                  </ul>
                </li>
              ))}
            </ul>
          )
        }
      </Fetched>
    </section>
  );
}

type Draft = Record<"name" | "sprockets" | "quantity" | "low_mark" | "cost" | "box_links" | "stated_uses", string> & {
  kind: StockItem["kind"];
  has_joining_link: boolean;
};

function draftOf(i: StockItem | null, currency: string): Draft {
  const f = i?.facts;
  const shown = (n: number | undefined) => (n === undefined ? "" : String(n));
  return {
    kind: i?.kind ?? "chain",
    name: f?.name ?? "",
    sprockets: shown(f?.sprockets),
    quantity: shown(f?.quantity),
    low_mark: shown(f?.low_mark),
    cost: f?.cost === undefined ? "" : typedMoney(f.cost, currency),
    box_links: shown(f?.box_links),
    stated_uses: shown(f?.stated_uses),
    has_joining_link: f?.has_joining_link ?? false,
  };
}

/** What a draft means, of either kind. */
const stockOf = (currency: string) =>
  field.facts<StockFacts>(
    field.object({
      name: field.line,
      sprockets: field.needed(field.whole),
      quantity: field.needed(field.whole),
      low_mark: field.orElse(field.whole, 0),
      cost: field.money(currency),
      box_links: field.whole,
      stated_uses: field.whole,
      has_joining_link: field.tick,
    }),
  );

function ItemForm({ item, close }: { item: StockItem | null; close: () => void }) {
  const rules = useQuery(rulesOptions);
  const currency = rules.data?.rules.currency ?? "EUR";
  const send = useWrite(
    ({ kind, facts, version }: { kind: Draft["kind"]; facts: StockFacts; version: number }, key) =>
      item
        ? ask(api.PUT("/stock/{item}", { params: { path: { item: item.id } }, body: { version, facts } }))
        : ask(api.POST("/stock", { params: { header: { "Idempotency-Key": key } }, body: { kind, facts } })),
    [{ topic: "stock" }],
  );
  const keep = useWrite(
    () =>
      ask(
        api.PUT("/stock/{item}/retired", {
          params: { path: { item: item?.id ?? "" } },
          body: { version: item?.version ?? 1, retired: !item?.retired },
        }),
      ),
    [{ topic: "stock" }],
  );
  const [start] = useState(() => draftOf(item, currency));
  const form = useForm({ start, reads: stockOf(currency), by: send, at: "facts" });
  const { kind } = form.typed;
  const submit = (version: number) =>
    form.submit(({ box_links, has_joining_link, stated_uses, ...all }) => {
      const of = kind === "chain" ? { box_links, has_joining_link } : { stated_uses };
      const given = Object.entries(of).filter(([, v]) => v !== undefined && v !== false);
      send.mutate({ kind, facts: { ...all, ...Object.fromEntries(given) }, version }, { done: close });
    });
  const prices = useSession().has.includes("settings"); // who may not set prices is not asked for one
  const line = (
    name: Exclude<keyof Draft, "kind" | "has_joining_link">,
    label: string,
    more: { unit?: string; hint?: string } = {},
  ) => (
    <Field label={label} fault={form.fault(name)} unit={more.unit} hint={more.hint}>
      {(a) => (
        <Input
          {...a}
          {...form.text(name)}
          inputMode={name === "name" ? "text" : "decimal"}
          maxLength={name === "name" ? 120 : 12}
        />
      )}
    </Field>
  );
  return (
    <EditDialog<StockItem>
      title={item ? item.facts.name : "Put on the shelf"}
      action={item ? "Save" : "Put on the shelf"}
      send={(over) => submit(over ?? item?.version ?? 0)}
      pending={send.isPending}
      error={send.error}
      facts={(theirs) => theirs.facts}
      close={close}
      more={
        item && (
          <Button may="retireStock" disabled={keep.isPending} onClick={() => keep.mutate(undefined, { done: close })}>
            {item.retired ? "Keep it again" : "Remove"}
          </Button>
        )
      }
    >
      {!item && (
        <Choice
          label="What it is"
          value={kind}
          options={[
            { value: "chain", words: "Chains" },
            { value: "joining-link", words: "Joining links" },
          ]}
          choose={(kind) => form.set({ kind })}
        />
      )}
      {line("name", "Name", { hint: "As the shop calls it." })}
      <div className="grid grid-cols-2 gap-3">
        {line("sprockets", "Speeds", { hint: "side by side: its width" })}
        {line("quantity", "How many")}
        {line("low_mark", "Order at", { hint: "so many or fewer" })}
        {prices && line("cost", "Cost of one", { unit: currency })}
        {kind === "chain"
          ? line("box_links", "In the box", { unit: "links" })
          : line("stated_uses", "Uses stated", { hint: "by its maker" })}
      </div>
      {kind === "chain" && (
        <Tick on={form.typed.has_joining_link} set={(on) => form.set({ has_joining_link: on })}>
          A joining link is in the box, and counted on it
        </Tick>
      )}
      {keep.isError && <Failure error={keep.error} />}
    </EditDialog>
  );
}
