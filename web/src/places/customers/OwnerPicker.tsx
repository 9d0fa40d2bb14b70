import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../../api/client";
import { customersOptions } from "../../api/queries";
import { Failure, Field } from "../../ui/parts";
import { deed, faultAt, useDeed } from "../../ui/sending";

export type PickedOwner = { id: string; name: string };

/** Chooses an owner by part of the name or phone, or adds a new one in the same breath. */
export function OwnerPicker(props: {
  owner: PickedOwner | null;
  pick: (o: PickedOwner | null) => void;
  fault: string | undefined;
}) {
  const [q, setQ] = useState("");
  const [adding, setAdding] = useState(false);
  const found = useQuery({ ...customersOptions(q), enabled: q.trim() !== "" });
  const customers = q.trim() === "" ? [] : (found.data ?? []).slice(0, 6);
  if (props.owner)
    return (
      <div className="flex flex-wrap items-center gap-3 sm:col-span-2 lg:col-span-3">
        <span className="text-lg font-semibold">{props.owner.name}</span>
        <button type="button" className="deed-plain" onClick={() => props.pick(null)}>
          Somebody else
        </button>
        {props.fault && <span className="font-semibold text-error">{props.fault}</span>}
      </div>
    );
  if (adding) return <NewOwner name={q} picked={props.pick} back={() => setAdding(false)} />;
  return (
    <div className="flex flex-col gap-2 sm:col-span-2 lg:col-span-3">
      <Field label="Owner" fault={props.fault} hint="Part of the name or phone number">
        {(a) => (
          <input
            {...a}
            name="owner"
            value={q}
            maxLength={100}
            autoComplete="off"
            onChange={(e) => setQ(e.target.value)}
          />
        )}
      </Field>
      {found.isError && <Failure error={found.error} again={() => found.refetch()} />}
      <ul className="flex flex-wrap gap-1.5" aria-label="Owners found">
        {customers.map((c) => (
          <li key={c.id}>
            <button
              type="button"
              className="min-h-(--target) rounded-field border border-base-300 px-3 text-left hover:bg-base-200"
              onClick={() => props.pick({ id: c.id, name: c.facts.name })}
            >
              {c.facts.name}{" "}
              {c.facts.phone && <span className="font-mono text-[13px] text-quiet">{c.facts.phone}</span>}
            </button>
          </li>
        ))}
        <li>
          <button type="button" className="deed-plain" onClick={() => setAdding(true)}>
            {q.trim() ? `Add “${q.trim()}” as a new owner` : "Add a new owner"}
          </button>
        </li>
      </ul>
    </div>
  );
}

function NewOwner({ name, picked, back }: { name: string; picked: (o: PickedOwner) => void; back: () => void }) {
  const [typed, setTyped] = useState({ name, phone: "" });
  const send = useDeed(
    (facts: { name: string; phone: string }, key) =>
      ask(api.POST("/customers", { params: { header: { "Idempotency-Key": key } }, body: facts })),
    [["customers"]],
  );
  const add = () =>
    send.mutate(deed({ name: typed.name.trim(), phone: typed.phone.trim() }), {
      onSuccess: (c) => picked({ id: c.id, name: c.facts.name }),
    });
  // Not a form of its own: it stands inside the bike's. Enter adds the owner all the same.
  const onKey = (e: React.KeyboardEvent) => {
    if (e.key !== "Enter") return;
    e.preventDefault();
    add();
  };
  return (
    <div className="grid gap-3 sm:col-span-2 sm:grid-cols-2 lg:col-span-3">
      <Field label="Name" fault={faultAt(send.error, "name") ?? faultAt(send.error, "facts.name")}>
        {(a) => (
          <input
            {...a}
            name="owner_name"
            value={typed.name}
            maxLength={120}
            onKeyDown={onKey}
            onChange={(e) => setTyped({ ...typed, name: e.target.value })}
          />
        )}
      </Field>
      <Field label="Phone" fault={faultAt(send.error, "phone") ?? faultAt(send.error, "facts.phone")}>
        {(a) => (
          <input
            {...a}
            name="owner_phone"
            type="tel"
            value={typed.phone}
            maxLength={40}
            onKeyDown={onKey}
            onChange={(e) => setTyped({ ...typed, phone: e.target.value })}
          />
        )}
      </Field>
      {send.isError && !faultAt(send.error, "name") && !faultAt(send.error, "facts.name") && (
        <div className="sm:col-span-2">
          <Failure error={send.error} />
        </div>
      )}
      <div className="flex flex-wrap gap-3 sm:col-span-2">
        <button type="button" className="deed-main" disabled={send.isPending} onClick={add}>
          Add the owner
        </button>
        <button type="button" className="deed-quiet" onClick={back}>
          Choose one who is here
        </button>
      </div>
    </div>
  );
}
