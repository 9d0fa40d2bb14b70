import { useQuery, useQueryClient } from "@tanstack/react-query";
import type { FormEvent } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, ask, type Bike, type BikeFacts, type CustomerFacts } from "../../api/client";
import { bikeOptions, customersFoundOptions } from "../../api/queries";
import { reachNow } from "../../outbox/reach";
import { Conflict, versionsOf } from "../../ui/Conflict";
import { Button, Key } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { Heading } from "../../ui/Heading";
import { forget } from "../../ui/kept";
import { Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { nobodyTyped, OwnerPicker, ownerOf, type PickedOwner, type TypedOwner } from "../customers/OwnerPicker";
import { BikeFields, Section } from "./BikeFields";
import { type Draft, emptyDraft, fromDraft, isDraft, toDraft } from "./draft";

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
        if (reachNow().reached)
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
      <BikeFields draft={draft} set={set} fault={fault} />
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
