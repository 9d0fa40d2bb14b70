import { useQuery } from "@tanstack/react-query";
import { api, ask, type CustomerFacts } from "../../api/client";
import { customersFoundOptions } from "../../api/queries";
import { useReach } from "../../outbox/reach";
import { Searched } from "../../ui/answer";
import { Button, Input } from "../../ui/controls";
import { Failure, Field } from "../../ui/parts";
import { faultAt, useWrite } from "../../ui/sending";
import { Reach } from "./Reach";

export type PickedOwner = { id: string; name: string };

/** What somebody typed of an owner who is not picked yet. It is the form's to keep, and to add the owner from. */
export type TypedOwner = { q: string; adding: boolean } & NewOwner;

type NewOwner = Required<Pick<CustomerFacts, "name" | "phone" | "email" | "contact_way" | "consent" | "consent_how">>;

const nobody: NewOwner = { name: "", phone: "", email: "", contact_way: "", consent: false, consent_how: "" };

export const nobodyTyped: TypedOwner = { q: "", adding: false, ...nobody };

const added = ({ phone, email, contact_way, consent, consent_how }: TypedOwner, name: string): NewOwner => ({
  name: name.trim(),
  phone: phone.trim(),
  email: email.trim(),
  contact_way,
  consent,
  consent_how,
});

/**
 * Whose bike it is, from what was typed and whom that finds: somebody who is here, somebody new who is added with the
 * bike, or what is to be said at the field.
 */
export function ownerOf(
  typed: TypedOwner,
  found: PickedOwner[],
): { owner: PickedOwner } | { add: NewOwner } | { fault: string } {
  if (typed.adding)
    return typed.name.trim() === "" ? { fault: "Type the customer's name." } : { add: added(typed, typed.name) };
  const name = typed.q.trim();
  if (name === "") return { fault: "Choose whose bike it is, or add the customer." };
  const same = found.filter((o) => o.name.toLowerCase() === name.toLowerCase());
  const [one] = same;
  if (one && same.length === 1 && found.length === 1) return { owner: one };
  if (found.length > 0) return { fault: `Choose one of those found, or add “${name}” as a new customer.` };
  return /\p{L}/u.test(name)
    ? { add: added(typed, name) }
    : { fault: "Nobody has this number. Type the customer's name." };
}

/** Chooses an owner by part of the name or phone, or adds a new one in the same breath. */
export function OwnerPicker(props: {
  owner: PickedOwner | null;
  pick: (o: PickedOwner | null) => void;
  typed: TypedOwner;
  type: (t: TypedOwner) => void;
  /** Whoever is not here yet is added with what this form sends. */
  adds?: boolean;
  /** Nobody is added: it is somebody who is here. */
  hereOnly?: boolean;
  /** What is wrong with the owner who is picked, or that none is. */
  fault: string | undefined;
  /** What is wrong with a new one, by field. */
  faultOf?: (field: "name" | "phone" | "email") => string | undefined;
}) {
  const { typed, type } = props;
  const q = typed.q;
  const found = useQuery({ ...customersFoundOptions(q), enabled: q.trim() !== "" });
  const customers = q.trim() === "" ? [] : (found.data ?? []);
  // What is asked of somebody new is asked at once.
  // Without a connection nobody can be looked for: whoever is typed comes with the bike, and is merged later if need be.
  const away = !useReach().reached;
  const none = found.isSuccess && !found.isPlaceholderData && found.data.length === 0;
  const isNew = props.adds && (none || away) && /\p{L}{2}/u.test(q);
  if (props.owner)
    return (
      <div className="flex flex-wrap items-center gap-3 sm:col-span-2 lg:col-span-3">
        <span className="text-lg font-semibold">{props.owner.name}</span>
        <Button onClick={() => props.pick(null)}>Somebody else</Button>
        {props.fault && <span className="font-semibold text-error">{props.fault}</span>}
      </div>
    );
  if (typed.adding)
    return (
      <Adding
        typed={typed}
        type={type}
        picked={props.pick}
        faultOf={(field) => props.faultOf?.(field) ?? (field === "name" ? props.fault : undefined)}
      />
    );
  return (
    <div className="flex flex-col gap-2 sm:col-span-2 lg:col-span-3">
      <Field label="Customer" fault={props.fault} hint="Part of the name or phone number">
        {(a) => (
          <Input
            {...a}
            name="owner"
            value={q}
            maxLength={100}
            autoComplete="off"
            onChange={(e) => type({ ...typed, q: e.target.value })}
          />
        )}
      </Field>
      {away && (
        <p className="text-note text-quiet">
          Without a connection nobody is looked for. Whoever is here twice afterwards is merged on their page.
        </p>
      )}
      {found.isError && !away && <Failure error={found.error} again={() => found.refetch()} />}
      <Searched query={away ? { isPlaceholderData: false } : found} question={{ q: q.trim() }}>
        {() => (
          <ul className="flex flex-wrap gap-1.5" aria-label="Customers found">
            {customers.map((c) => (
              <li key={c.id}>
                <Button
                  className="border-base-300 px-3 text-left font-normal"
                  onClick={() => props.pick({ id: c.id, name: c.facts.name })}
                >
                  {c.facts.name}{" "}
                  {c.facts.phone && <span className="font-mono text-fine text-quiet">{c.facts.phone}</span>}
                </Button>
              </li>
            ))}
            {!props.hereOnly && !away && (
              <li>
                <Button onClick={() => type({ ...typed, adding: true, name: q.trim() })}>
                  {q.trim() ? `Add “${q.trim()}” as a new customer` : "Add a new customer"}
                </Button>
              </li>
            )}
            {props.hereOnly && !away && q.trim() && customers.length === 0 && <li>Nobody here is called that.</li>}
          </ul>
        )}
      </Searched>
      {isNew && (
        <fieldset className="grid gap-3 sm:grid-cols-2">
          <legend className="fieldset-legend">
            {away ? `${q.trim()} is added with the bike` : `${q.trim()} is new here, and is added with the bike`}
          </legend>
          <Contact typed={typed} type={type} fault={(field) => props.faultOf?.(field)} />
        </fieldset>
      )}
    </div>
  );
}

function Adding(props: {
  typed: TypedOwner;
  type: (t: TypedOwner) => void;
  picked: (o: PickedOwner) => void;
  faultOf: (field: "name" | "phone" | "email") => string | undefined;
}) {
  const { typed, type, picked, faultOf } = props;
  const send = useWrite(
    (facts: NewOwner, key) =>
      ask(api.POST("/customers", { params: { header: { "Idempotency-Key": key } }, body: facts })),
    [{ topic: "customer" }],
  );
  const add = () => send.mutate(added(typed, typed.name), { done: (c) => picked({ id: c.id, name: c.facts.name }) });
  // Not a form of its own: it stands inside the bike's. Enter adds the owner all the same.
  const onKey = (e: React.KeyboardEvent) => {
    if (e.key !== "Enter") return;
    e.preventDefault();
    add();
  };
  return (
    <div className="grid gap-3 sm:col-span-2 sm:grid-cols-2 lg:col-span-3">
      <Field label="Name" fault={faultOf("name") ?? faultAt(send.error, "name") ?? faultAt(send.error, "facts.name")}>
        {(a) => (
          <Input
            {...a}
            name="owner_name"
            value={typed.name}
            maxLength={120}
            onKeyDown={onKey}
            onChange={(e) => type({ ...typed, name: e.target.value })}
          />
        )}
      </Field>
      <Contact
        typed={typed}
        type={type}
        onKey={onKey}
        fault={(field) =>
          (field === "phone" ? faultOf("phone") : undefined) ??
          faultAt(send.error, field) ??
          faultAt(send.error, `facts.${field}`)
        }
      />
      {send.isError && !faultAt(send.error, "name") && !faultAt(send.error, "facts.name") && (
        <div className="sm:col-span-2">
          <Failure error={send.error} />
        </div>
      )}
      <div className="flex flex-wrap gap-3 sm:col-span-2">
        <Button kind="main" disabled={send.isPending} onClick={add}>
          Add the customer
        </Button>
        <Button kind="quiet" onClick={() => type({ ...typed, adding: false, q: typed.name })}>
          Choose one who is here
        </Button>
      </div>
    </div>
  );
}

/** How somebody new is reached. */
function Contact(props: {
  typed: TypedOwner;
  type: (t: TypedOwner) => void;
  onKey?: (e: React.KeyboardEvent) => void;
  fault: (field: "phone" | "email") => string | undefined;
}) {
  const { typed, type } = props;
  const text = (name: "phone" | "email", label: string, kind: string, max: number) => (
    <Field label={label} fault={props.fault(name)}>
      {(a) => (
        <Input
          {...a}
          name={`owner_${name}`}
          type={kind}
          value={typed[name]}
          maxLength={max}
          onKeyDown={props.onKey}
          onChange={(e) => type({ ...typed, [name]: e.target.value })}
        />
      )}
    </Field>
  );
  return (
    <>
      {text("phone", "Phone", "tel", 40)}
      {text("email", "Mail", "email", 200)}
      <div className="flex flex-col gap-3 sm:col-span-2">
        <Reach
          way={typed.contact_way}
          consent={typed.consent}
          how={typed.consent_how}
          set={(part) => type({ ...typed, ...part })}
        />
      </div>
    </>
  );
}
