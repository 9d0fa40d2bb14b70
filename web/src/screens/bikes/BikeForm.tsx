import { useQuery, useQueryClient } from "@tanstack/react-query";
import type { FormEvent } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, ask, type Bike, type BikeFacts, type CustomerFacts } from "../../api/client";
import { bikeOptions, customersFoundOptions } from "../../api/queries";
import { Conflict, versionsOf } from "../../ui/Conflict";
import { Button, Input, Key, Select, TextArea } from "../../ui/controls";
import { useDistance } from "../../ui/distance";
import { Fetched } from "../../ui/Fetched";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { Heading } from "../../ui/Heading";
import { forget } from "../../ui/kept";
import { Choice, Failure, Field } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { signOf, understood } from "../../ui/units";
import { WhenField } from "../../ui/WhenField";
import { bikeKindWords, careWords, drivetrainWords, lubricantWords, mixWords, motorWords } from "../../words/bikes";
import { schoolWords } from "../../words/wear";
import { nobodyTyped, OwnerPicker, ownerOf, type PickedOwner, type TypedOwner } from "../customers/OwnerPicker";
import { type Draft, emptyDraft, fromDraft, isDraft, kinds, toDraft } from "./draft";

/** A bike as it is typed: its facts, and whose it is, picked or typed. */
type Typed = { draft: Draft; owner: PickedOwner | null; whose: TypedOwner };

/** What is sent: a bike of somebody who is here, or of somebody new. */
type Sent = { customer_id?: string; customer?: CustomerFacts; facts: BikeFacts; version: number };

const fits = (v: unknown): v is Typed =>
  isDraft((v as Typed | null)?.draft) && typeof (v as Typed).whose?.email === "string";

/** What is typed of a bike, with what the page does not show of it. */
const bikeOf = (was: BikeFacts | undefined) =>
  field.together(({ draft }: Typed) => {
    const { facts, faults } = fromDraft(draft, was);
    // What is set on the bike's own page, task by task, stays as it is.
    return { is: { ...facts, ...(was?.tasks ? { tasks: was.tasks } : {}) }, faults };
  });

/** Adding a customer's bike. */
export function AddBike() {
  const [params] = useSearchParams();
  const ownerID = params.get("owner");
  const ownerName = params.get("name");
  const owner = ownerID && ownerName ? { id: ownerID, name: ownerName } : null;
  return (
    <BikeForm slot={`pony.draft.bike.new.${ownerID ?? ""}`} start={{ draft: emptyDraft, owner, whose: nobodyTyped }} />
  );
}

/** Changing a bike's facts. */
export function EditBike() {
  const { tag = "" } = useParams();
  const bike = useQuery(bikeOptions(tag));
  return (
    <Fetched query={bike} what={`the bike of tag ${tag}`}>
      {(b) => (
        <BikeForm
          key={b.tag}
          slot={`pony.draft.bike.${b.tag}`}
          bike={b}
          start={{ draft: toDraft(b.facts), owner: b.customer, whose: nobodyTyped }}
        />
      )}
    </Fetched>
  );
}

function BikeForm({ slot, start, bike }: { slot: string; start: Typed; bike?: Bike }) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const d = useDistance();
  const send = useWrite(
    ({ version, ...body }: Sent, key) =>
      bike
        ? ask(api.PUT("/bikes/{tag}", { params: { path: { tag: bike.tag } }, body: { version, ...body } }))
        : ask(api.POST("/bikes", { params: { header: { "Idempotency-Key": key } }, body })),
    [bike ? { topic: "bike", tag: bike.tag } : { topic: "bike" }],
  );
  const form = useForm({ start, reads: bikeOf(bike?.facts), by: send, version: bike?.version ?? 0, slot, fits });
  const { draft, owner, whose: typed } = form.typed;
  const leave = (to: string) => {
    forget(slot);
    navigate(to);
    // The form's own keeping runs once more as it goes; what it kept is dropped after that.
    window.setTimeout(() => forget(slot));
  };
  /** Whose bike it is: picked, or to be made out from what was typed. */
  const whose = async (): Promise<{ of: Pick<Sent, "customer_id" | "customer"> } | { fault: string }> => {
    if (owner) return { of: { customer_id: owner.id } };
    let found: PickedOwner[] = [];
    if (!typed.adding && typed.q.trim() !== "")
      try {
        const all = await client.fetchQuery(customersFoundOptions(typed.q));
        found = all.map((c) => ({ id: c.id, name: c.facts.name }));
      } catch {
        return { fault: "It cannot be seen now whether this customer is here already. Try again." };
      }
    const one = ownerOf(typed, found);
    if ("fault" in one) return one;
    return "owner" in one ? { of: { customer_id: one.owner.id } } : { of: { customer: one.add } };
  };
  const submit = async (version: number) => {
    const w = await whose();
    form.submit(
      (facts, key) => {
        if ("of" in w)
          send.mutate({ ...w.of, facts, version }, { key, done: (b) => leave(`/bikes/${b.tag}`), refused: form.renew });
      },
      { customer_id: "fault" in w ? w.fault : undefined },
    );
  };
  const set = (name: keyof Draft) => (value: string) => form.set({ draft: { ...draft, [name]: value } });
  const { fault } = form;
  const versions = versionsOf(send.error);

  const text = (
    name: keyof Draft,
    label: string,
    extra: { unit?: string; hint?: string; numeric?: boolean; max?: number } = {},
  ) => (
    <Field
      label={label}
      unit={extra.unit ?? (kinds[name] && signOf(kinds[name]))}
      hint={(kinds[name] && understood(kinds[name], draft[name])) ?? extra.hint}
      fault={fault(`facts.${name}`)}
    >
      {(a) => (
        <Input
          {...a}
          name={name}
          value={draft[name]}
          inputMode={extra.numeric ? "decimal" : "text"}
          maxLength={extra.max ?? 80}
          onChange={(e) => set(name)(e.target.value)}
        />
      )}
    </Field>
  );
  const pick = (name: keyof Draft, label: string, words: Record<string, string>) => (
    <Field label={label} fault={fault(`facts.${name}`)}>
      {(a) => (
        <Select {...a} name={name} value={draft[name]} onChange={(e) => set(name)(e.target.value)}>
          <option value="">not known</option>
          {Object.entries(words).map(([value, w]) => (
            <option key={value} value={value}>
              {w}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );

  return (
    <form
      className="mx-auto flex max-w-[980px] flex-col gap-3 p-3 sm:p-4"
      onSubmit={(e: FormEvent) => {
        e.preventDefault();
        if (!send.isPending) void submit(form.version);
      }}
    >
      <Heading className="flex items-center gap-3 text-2xl">
        {bike ? (
          <>
            Change <Tag tag={bike.tag} size="middle" />
          </>
        ) : (
          "Add a bike"
        )}
      </Heading>
      {versions && (
        <Conflict
          yours={{ ...(versions.yours as { facts: BikeFacts }).facts, owner: owner?.name }}
          theirs={{ ...(versions.theirs as Bike).facts, owner: (versions.theirs as Bike).customer.name }}
          keepMine={() => {
            const version = (versions.theirs as Bike).version;
            form.over(version);
            void submit(version);
          }}
          takeTheirs={() => {
            const theirs = versions.theirs as Bike;
            form.restart({ draft: toDraft(theirs.facts), owner: theirs.customer, whose: nobodyTyped }, theirs.version);
            send.reset();
          }}
        />
      )}
      <Section title="Whose bike">
        <OwnerPicker
          adds
          owner={owner}
          pick={(o) => form.set({ owner: o, whose: nobodyTyped })}
          typed={typed}
          type={(t) => form.set({ whose: t })}
          fault={fault("customer_id")}
          faultOf={(field) => fault(`customer.${field}`)}
        />
      </Section>
      <Section title="The bike">
        {text("make", "Make")}
        {text("model", "Model")}
        {text("colour", "Colour", { max: 80 })}
        {text("frame_number", "Frame number", { max: 60 })}
        {pick("kind", "Kind", bikeKindWords)}
        {pick("brakes", "Brakes", { rim: "rim", disc: "disc", drum: "drum", coaster: "coaster" })}
        {pick("motor", "Motor", motorWords)}
      </Section>
      <Section title="Drivetrain">
        {pick("drivetrain_kind", "Gears", drivetrainWords)}
        {text("sprocket_count", "Speeds (rear sprockets)", { numeric: true })}
        {text("sprocket_teeth", "Sprocket teeth", { hint: "all, or smallest and largest: 11–42" })}
        {text("ring_teeth", "Chainring teeth", { hint: "34, 50" })}
        {text("chain_links", "Links in the chain", { numeric: true, hint: "inner and outer counted alike" })}
        {text("chainstay_mm", "Chainstay", { numeric: true })}
        {text("chainstay_growth_mm", "Chainstay growth at full travel", { numeric: true })}
        {text("cage_mm", "Derailleur cage", { numeric: true })}
        {text("capacity_teeth", "Capacity", { unit: "teeth", numeric: true })}
        <Choice
          label="Clutch"
          value={draft.clutch}
          options={[
            { value: "", words: "Not known" },
            { value: "yes", words: "Yes" },
            { value: "no", words: "No" },
          ]}
          choose={set("clutch")}
        />
      </Section>
      <Section title="How it is ridden and kept">
        {text("weekly_km", "A week", { unit: d.unit, numeric: true })}
        {pick("lubricant", "Lubricant now", lubricantWords)}
        {pick("care", "How the chain is kept", careWords)}
        <fieldset className="min-w-0 sm:col-span-2 lg:col-span-3">
          <legend className="fieldset-legend">Shares of its riding, together 100 %</legend>
          <div className="grid grid-cols-2 gap-2 sm:grid-cols-5">
            {Object.entries(mixWords).map(([name, words]) => (
              <div key={name}>{text(name as keyof Draft, words, { unit: "%", numeric: true })}</div>
            ))}
          </div>
          {fault("facts.mix") && <p className="mt-1 text-fine font-semibold text-error">{fault("facts.mix")}</p>}
        </fieldset>
      </Section>
      <Section title="Instead of the shop's rule, where this bike needs it">
        {pick(
          "wear_school",
          "Wear rule",
          Object.fromEntries(Object.entries(schoolWords).map(([school, words]) => [school, words.name])),
        )}
        {text("limit_pct", "Replace the chain at", { unit: "%", numeric: true })}
        {text("together_pct", "Cassette with it past", { unit: "%", numeric: true })}
        {pick("limit_source", "Whose limit", { maker: "the maker's", bike: "the shop's, for this bike" })}
        <div className="sm:col-span-2 lg:col-span-3">{text("limit_reason", "Why", { max: 300 })}</div>
      </Section>
      <Section title="Notes">
        <div className="sm:col-span-2 lg:col-span-3">
          <WhenField
            label="Its customer needs it ready on"
            ask="day"
            name="needed_on"
            value={draft.needed_on}
            set={set("needed_on")}
            fault={fault("facts.needed_on")}
          />
          {text("needed_for", "For what", { max: 120 })}
          <Field label="What the next mechanic should know" fault={fault("facts.notes")}>
            {(a) => (
              <TextArea
                {...a}
                name="notes"
                rows={3}
                value={draft.notes}
                maxLength={4000}
                onChange={(e) => set("notes")(e.target.value)}
              />
            )}
          </Field>
        </div>
      </Section>
      {send.isError && !versions && <Failure error={send.error} />}
      {form.isWrong && (
        <p role="alert" className="font-semibold text-error">
          Some fields are not right yet: see above.
        </p>
      )}
      <div className="sticky bottom-0 flex flex-wrap gap-3 border-t border-base-300 bg-base-200 py-3">
        <Button type="submit" kind="main" disabled={send.isPending}>
          {bike ? "Save changes" : "Add the bike"} <Key>Enter</Key>
        </Button>
        <Button kind="quiet" onClick={() => leave(bike ? `/bikes/${bike.tag}` : "/bikes")}>
          Leave unsaved
        </Button>
        {bike && bike.version > form.version && form.version > 0 && !versions && (
          <span className="self-center text-fine text-quiet">
            Somebody changed this bike since you began. <Link to={`/bikes/${bike.tag}`}>View</Link>
          </span>
        )}
      </div>
    </form>
  );
}

function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <fieldset className="card card-border bg-base-100 grid min-w-0 gap-3 p-4 sm:grid-cols-2 lg:grid-cols-3">
      <legend className="sr-only">{title}</legend>
      <p aria-hidden className="text-base font-semibold sm:col-span-2 lg:col-span-3">
        {title}
      </p>
      {children}
    </fieldset>
  );
}
