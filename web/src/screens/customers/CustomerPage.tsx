import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import { api, ask, type BikeRow, type Customer, type CustomerFacts } from "../../api/client";
import { customerHistoryOptions, customerOptions } from "../../api/queries";
import { Archiving } from "../../ui/Archiving";
import { ButtonLink } from "../../ui/ButtonLink";
import { Conflict, versionsOf } from "../../ui/Conflict";
import { Button, For, Input, Key, TextArea } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { FormDialog } from "../../ui/FormDialog";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { dayAndTime, shortDay } from "../../ui/format";
import { useCommands, useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { forget } from "../../ui/kept";
import { money } from "../../ui/money";
import { Empty, Failure, Field, Tick } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { routeWords } from "../../words/cleaning";
import { messageWords } from "../../words/due";
import { BikeLine } from "../bikes/BikesPlace";
import { nobodyTyped, OwnerPicker, type PickedOwner, type TypedOwner } from "./OwnerPicker";
import { consentWays, contactWays, Reach } from "./Reach";

/** One owner: how to reach them, and their bikes. */
export function CustomerPage() {
  const { id = "" } = useParams();
  const customer = useQuery(customerOptions(id));
  const navigate = useNavigate();
  useCommands({
    e: { words: "Change this customer", may: "changeCustomer", run: () => navigate(`/customers/${id}/edit`) },
  });
  return (
    <Fetched query={customer} what="the customer">
      {(data) =>
        data.customer.merged_into ? (
          <Navigate to={`/customers/${data.customer.merged_into}`} replace />
        ) : (
          <Shown customer={data.customer} bikes={data.bikes} />
        )
      }
    </Fetched>
  );
}

function Shown({ customer: c, bikes }: { customer: Customer; bikes: BikeRow[] }) {
  const [archiving, setArchiving] = useState(false);
  const [erasing, setErasing] = useState(false);
  const [merging, setMerging] = useState(false);
  const f = c.facts;
  const way = contactWays.find((w) => w.value === (f.contact_way ?? ""))?.words;
  return (
    <div className="mx-auto flex max-w-[1180px] flex-col gap-3 p-3 sm:p-4">
      <section className="card card-border bg-base-100 flex flex-wrap items-start gap-4 p-4" aria-label="Customer">
        <div className="min-w-0 grow basis-72">
          <Heading className="text-2xl break-words">{f.name}</Heading>
          <p className="mt-1 flex flex-wrap gap-x-4 font-mono">
            {f.phone && (
              <a className="min-h-(--target) content-center" href={`tel:${f.phone}`}>
                {f.phone}
              </a>
            )}
            {f.email && (
              <a className="min-h-(--target) content-center break-all" href={`mailto:${f.email}`}>
                {f.email}
              </a>
            )}
            {!f.phone && !f.email && <span className="font-sans text-quiet">no way to reach them noted</span>}
          </p>
          <p className="mt-1 text-note text-quiet">
            Contact: {way?.toLowerCase()}
            {f.consent ? ", agreed to reminders" : ", has not agreed to reminders"}
            {f.consent && consentSaid(c)}
          </p>
          {f.notes && <p className="mt-2 max-w-prose break-words whitespace-pre-wrap">{f.notes}</p>}
        </div>
        <div className="flex flex-wrap gap-2">
          <ButtonLink to={`/customers/${c.id}/edit`} may="changeCustomer">
            Change <Key>E</Key>
          </ButtonLink>
          {!c.archived && (
            <ButtonLink to={`/bikes/new?owner=${c.id}&name=${encodeURIComponent(f.name)}`} may="addBike" kind="main">
              Add a bike
            </ButtonLink>
          )}
        </div>
      </section>
      <section className="card card-border bg-base-100 overflow-hidden" aria-label="Bikes">
        {bikes.length === 0 ? (
          <Empty title="No bike of theirs is in care.">
            <p>Their bikes stand here with how worn each is, once they are added.</p>
          </Empty>
        ) : (
          <ul className="[&>li:first-child>a]:border-t-0">
            {bikes.map((b) => (
              <BikeLine key={b.tag} bike={b} ofOwner />
            ))}
          </ul>
        )}
      </section>
      <History customer={c} />
      <div className="flex flex-wrap gap-x-2">
        <ButtonLink to={`/due?show=all&owner=${c.id}`} kind="quiet">
          What their bikes need
        </ButtonLink>
        <For may="getCustomerData">
          <a className="btn btn-link" href={`/api/v1/customers/${c.id}/data`} download="owner-data.json">
            All that is held on them
          </a>
        </For>
        {!c.archived && (
          <Button kind="quiet" may="mergeCustomers" onClick={() => setMerging(true)}>
            Merge with another entry
          </Button>
        )}
        <Button kind="quiet" may="archiveCustomer" onClick={() => setArchiving(true)}>
          {c.archived ? "Take this customer out of the archive" : "Archive this customer"}
        </Button>
        <Button kind="quiet" may="eraseCustomer" onClick={() => setErasing(true)}>
          Erase this customer
        </Button>
      </div>
      {merging && <Merging into={c} close={() => setMerging(false)} />}
      {erasing && <Erasing customer={c} close={() => setErasing(false)} />}
      {archiving && (
        <Archiving
          what="this customer"
          archived={c.archived}
          means={
            c.archived
              ? "The customer can be given bikes again."
              : "The customer leaves the list; the records of their bikes stay."
          }
          send={() =>
            ask(
              api.PUT("/customers/{customer}/archived", {
                params: { path: { customer: c.id } },
                body: { version: c.version, archived: !c.archived },
              }),
            )
          }
          touches={[{ topic: "customer" }]}
          close={() => setArchiving(false)}
        />
      )}
    </div>
  );
}

/** When, how and to whom somebody agreed to be contacted. */
function consentSaid({ facts, consented }: Customer): string {
  const how = facts.consent_how
    ? consentWays.find((w) => w.value === facts.consent_how)?.words.toLowerCase()
    : undefined;
  const said = [how, consented && `on ${shortDay(consented.at)}`, consented?.by && `noted by ${consented.by}`].filter(
    Boolean,
  );
  return said.length > 0 ? ` (${said.join(", ")})` : " (nobody noted when or how)";
}

/** What the shop did for a customer, and what it told them. */
function History({ customer: c }: { customer: Customer }) {
  const history = useQuery(customerHistoryOptions(c.id));
  const { currency } = useSession().shop;
  return (
    <Fetched query={history} what="jobs and messages">
      {({ jobs, messages }) => (
        <div className="grid items-start gap-3 lg:grid-cols-2">
          <section className="card card-border bg-base-100" aria-label="Jobs">
            <h2 className="px-4 pt-3 pb-1 text-lg">Jobs</h2>
            {jobs.length === 0 ? (
              <p className="px-4 pb-3 text-quiet">None yet. Every visit of their bikes will stand here.</p>
            ) : (
              <ul>
                {jobs.map((j) => (
                  <li key={j.id} data-testid="customer-job">
                    <Link
                      to={`/jobs/${j.id}`}
                      className="flex min-h-(--target) flex-wrap items-center gap-x-3 border-t border-base-300 px-4 py-1.5 hover:bg-base-200"
                    >
                      <Tag tag={j.tag} size="small" />
                      <span className="min-w-0 grow">
                        {j.route ? routeWords[j.route].name : "Not planned"}
                        <span className="block text-note text-quiet">
                          {j.state === "cancelled"
                            ? `Cancelled ${shortDay(j.closed_at ?? j.created_at)}`
                            : j.closed_at
                              ? `Handed back ${shortDay(j.closed_at)}`
                              : `In the workshop since ${shortDay(j.created_at)}`}
                        </span>
                      </span>
                      {j.total !== undefined && (
                        <span className="text-right">
                          <span className="block font-mono">{money(j.total, currency)}</span>
                          {j.unpaid && <span className="block text-note font-semibold text-due-ink">not paid</span>}
                        </span>
                      )}
                    </Link>
                  </li>
                ))}
              </ul>
            )}
          </section>
          <section className="card card-border bg-base-100" aria-label="Messages">
            <h2 className="px-4 pt-3 pb-1 text-lg">Messages</h2>
            {messages.length === 0 ? (
              <p className="px-4 pb-3 text-quiet">None yet. What they are told when a bike is due will stand here.</p>
            ) : (
              <ul>
                {messages.map((m) => (
                  <li key={m.id} className="border-t border-base-300 px-4 py-2">
                    <p className="text-note text-quiet">
                      {messageWords[m.state]}, {dayAndTime(m.created_at)}, {m.tag}
                    </p>
                    <p className="break-words whitespace-pre-wrap">{m.body}</p>
                  </li>
                ))}
              </ul>
            )}
          </section>
        </div>
      )}
    </Fetched>
  );
}

/** Makes one of two entries of the same customer. */
function Merging({ into: c, close }: { into: Customer; close: () => void }) {
  const [typed, setTyped] = useState<TypedOwner>(nobodyTyped);
  const [other, setOther] = useState<PickedOwner | null>(null);
  const [missing, setMissing] = useState(false);
  const from = useQuery({ ...customerOptions(other?.id ?? ""), enabled: other !== null });
  const send = useWrite(
    (body: { version: number; from: string; from_version: number }, key) =>
      ask(
        api.POST("/customers/{customer}/merge", {
          params: { path: { customer: c.id }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    [{ topic: "everything" }],
    close,
  );
  const same = other?.id === c.id;
  const goes = same ? undefined : from.data?.customer;
  return (
    <FormDialog
      title={`Merge with ${c.facts.name}`}
      action="Make them one"
      pending={send.isPending || (other !== null && !goes && !same)}
      error={send.error}
      close={close}
      send={() => {
        setMissing(!goes);
        if (goes) send.mutate({ version: c.version, from: goes.id, from_version: goes.version });
      }}
    >
      <OwnerPicker
        owner={other}
        pick={(o) => {
          setOther(o);
          setMissing(false);
        }}
        typed={typed}
        type={setTyped}
        hereOnly
        fault={same ? "This is the same entry." : missing ? "Choose the other entry." : undefined}
      />
      {goes && (
        <dl className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-4 gap-y-1 text-note" data-testid="both">
          <dt className="text-quiet">Stays</dt>
          <dd className="break-words">{entrySaid(c)}</dd>
          <dt className="text-quiet">Goes</dt>
          <dd className="break-words">{entrySaid(goes)}</dd>
        </dl>
      )}
      <p className="text-note">
        Bikes, jobs and messages of the other entry come here. A phone number, email or note that is missing here is
        taken over; whether they may be contacted stays as it is here. This cannot be taken back.
      </p>
    </FormDialog>
  );
}

const entrySaid = ({ facts: f, bikes }: Customer) =>
  [f.name, f.phone, f.email, `${bikes} ${bikes === 1 ? "bike" : "bikes"}`].filter(Boolean).join(", ");

/** Asks before what cannot be taken back. */
function Erasing({ customer: c, close }: { customer: Customer; close: () => void }) {
  const [sure, setSure] = useState(false);
  const [photos, setPhotos] = useState(false);
  const erase = useWrite(
    () =>
      ask(
        api.POST("/customers/{customer}/erase", {
          params: { path: { customer: c.id } },
          body: { version: c.version, photos },
        }),
      ),
    [{ topic: "everything" }],
    close,
  );
  return (
    <FormDialog
      title="Erase this customer?"
      action="Erase for good"
      pending={erase.isPending || !sure}
      error={erase.error}
      close={close}
      send={() => erase.mutate()}
    >
      <p>
        Name, addresses, notes, what they said in their own words and what they were told are erased, and the links to
        their bikes withdrawn. The bikes' technical records stay. This cannot be taken back.
      </p>
      <Tick on={photos} set={setPhotos}>
        Photos of their bikes and jobs too
      </Tick>
      <Tick on={sure} set={setSure}>
        The customer asked for it
      </Tick>
    </FormDialog>
  );
}

type Typed = Required<CustomerFacts>;

const nobody: Typed = { name: "", phone: "", email: "", contact_way: "", consent: false, consent_how: "", notes: "" };

const fits = (v: unknown): v is Typed => typeof (v as Typed | null)?.name === "string";

const customerOf = field.object({
  name: field.line,
  phone: field.line,
  email: field.line,
  contact_way: field.choice<Typed["contact_way"]>(),
  consent: field.tick,
  consent_how: field.choice<Typed["consent_how"]>(),
  notes: field.line,
});

/** Adding an owner. */
export const AddCustomer = () => <CustomerForm slot="pony.draft.customer.new" start={nobody} version={0} />;

/** Changing an owner's facts. */
export function EditCustomer() {
  const { id = "" } = useParams();
  const customer = useQuery(customerOptions(id));
  return (
    <Fetched query={customer} what="the customer">
      {({ customer: c }) => (
        <CustomerForm
          key={c.id}
          slot={`pony.draft.customer.${c.id}`}
          id={c.id}
          start={{ ...nobody, ...c.facts }}
          version={c.version}
        />
      )}
    </Fetched>
  );
}

function CustomerForm({ slot, start, version, id }: { slot: string; start: Typed; version: number; id?: string }) {
  const navigate = useNavigate();
  const send = useWrite(
    (input: { facts: CustomerFacts; version: number }, key) =>
      id
        ? ask(
            api.PUT("/customers/{customer}", {
              params: { path: { customer: id } },
              body: { version: input.version, facts: input.facts },
            }),
          )
        : ask(api.POST("/customers", { params: { header: { "Idempotency-Key": key } }, body: input.facts })),
    [{ topic: "customer" }],
  );
  const leave = (to: string) => {
    forget(slot);
    navigate(to);
    window.setTimeout(() => forget(slot)); // after the form's own keeping ran once more
  };
  // The contract names a new customer's facts by themselves, a changed one's under facts.
  const form = useForm({ start, reads: customerOf, by: send, at: "facts", version, slot, fits });
  const facts = form.typed;
  const submit = (over: number) =>
    form.submit((facts, key) =>
      send.mutate({ facts, version: over }, { key, done: (c) => leave(`/customers/${c.id}`), refused: form.renew }),
    );
  const versions = versionsOf(send.error);
  const text = (name: "name" | "phone" | "email", label: string, type: string, max: number) => (
    <Field label={label} fault={form.fault(name)}>
      {(a) => <Input {...a} {...form.text(name)} type={type} maxLength={max} />}
    </Field>
  );
  return (
    <form
      noValidate
      className="mx-auto flex max-w-[720px] flex-col gap-3 p-3 sm:p-4"
      onSubmit={(e: FormEvent) => {
        e.preventDefault();
        submit(form.version);
      }}
    >
      <Heading className="text-2xl">{id ? "Change a customer" : "Add a customer"}</Heading>
      {versions && (
        <Conflict
          yours={versions.yours as Record<string, unknown>}
          theirs={(versions.theirs as Customer).facts}
          keepMine={() => {
            const version = (versions.theirs as Customer).version;
            form.over(version);
            submit(version);
          }}
          takeTheirs={() => {
            const theirs = versions.theirs as Customer;
            form.restart({ ...nobody, ...theirs.facts }, theirs.version);
            send.reset();
          }}
        />
      )}
      <div className="card card-border bg-base-100 flex flex-col gap-4 p-4">
        {text("name", "Name", "text", 120)}
        <div className="grid gap-4 sm:grid-cols-2">
          {text("phone", "Phone", "tel", 40)}
          {text("email", "Mail", "email", 200)}
        </div>
        <Reach way={facts.contact_way} consent={facts.consent} how={facts.consent_how} set={form.set} />
        <Field label="Notes" fault={form.fault("notes")}>
          {(a) => <TextArea {...a} {...form.text("notes")} rows={3} maxLength={4000} />}
        </Field>
      </div>
      {send.isError && !versions && <Failure error={send.error} />}
      <div className="flex flex-wrap gap-3">
        <Button type="submit" kind="main" disabled={send.isPending}>
          {id ? "Save changes" : "Add the customer"} <Key>Enter</Key>
        </Button>
        <Button kind="quiet" onClick={() => leave(id ? `/customers/${id}` : "/customers")}>
          Leave unsaved
        </Button>
      </div>
    </form>
  );
}
