import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Role, type StaffMember, type StaffState } from "../../api/client";
import { staffOptions } from "../../api/queries";
import { Button, Input, Key } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { EditDialog, FormDialog } from "../../ui/FormDialog";
import { shortDay, weekdayAndTime } from "../../ui/format";
import { useCommands, useMay, useSession, useWhyNot } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Choice, Empty, Field } from "../../ui/parts";
import { faultAt, useWrite } from "../../ui/sending";
import { roleWords, stateWords } from "../../words/people";

const topics = [{ topic: "rules" } as const];

/** Everybody who works here or did: added, renamed, given another role or PIN, locked out, gone. */
export function PeoplePlace() {
  const may = useMay("addPerson");
  const why = useWhyNot("listStaff");
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>People</Heading>
      {may ? <People /> : <Empty title={why ?? ""} />}
    </div>
  );
}

/** The people, for whoever may see to them. */
export function People() {
  const [adding, setAdding] = useState(false);
  const [changing, setChanging] = useState<StaffMember>();
  const staff = useQuery(staffOptions);
  useCommands({ n: { words: "Add a person", run: () => setAdding(true) } });
  return (
    <>
      <div className="flex flex-wrap items-center justify-between gap-3">
        <p className="max-w-prose text-quiet">
          Whoever leaves is signed out everywhere at once; the history keeps their name. One of them is always the
          shop's owner.
        </p>
        <Button kind="main" className="max-sm:w-full" onClick={() => setAdding(true)}>
          Add a person <Key>N</Key>
        </Button>
      </div>
      <Fetched query={staff} what="the people">
        {(all) => <Staff all={all} change={setChanging} />}
      </Fetched>
      {adding && <AddDialog close={() => setAdding(false)} />}
      {changing && <ChangeDialog member={changing} close={() => setChanging(undefined)} />}
    </>
  );
}

function Staff({ all, change }: { all: StaffMember[]; change: (m: StaffMember) => void }) {
  const gone = all.filter((m) => m.state === "left");
  return (
    <>
      <section className="card card-border bg-base-100" aria-label="Who works here">
        <ul>
          {all
            .filter((m) => m.state !== "left")
            .map((m) => (
              <Member key={m.id} member={m} change={change} />
            ))}
        </ul>
      </section>
      {gone.length > 0 && (
        <section className="card card-border bg-base-100" aria-label="Who left">
          <h2 className="text-fine font-semibold text-quiet px-4 pt-3 pb-1">Left: what they did stays on record</h2>
          <ul>
            {gone.map((m) => (
              <Member key={m.id} member={m} change={change} />
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

function Member({ member: m, change }: { member: StaffMember; change: (m: StaffMember) => void }) {
  const me = useSession().person.id === m.id;
  return (
    <li
      data-testid="member"
      className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-3 border-t border-base-300 px-4 py-2 first:border-t-0 sm:grid-cols-[minmax(0,1fr)_minmax(0,1.4fr)_auto]"
    >
      <span className="min-w-0">
        <span className="block font-semibold break-words">
          {m.name}
          {me && <span className="font-normal text-quiet"> (you)</span>}
        </span>
        <span className={`block text-note ${m.state === "locked" ? "font-semibold text-error" : "text-quiet"}`}>
          {roleWords[m.role]}
          {m.state === "locked" && `, ${stateWords.locked}`}
          {m.state === "left" && m.left_at && `, left on ${shortDay(m.left_at)}`}
        </span>
      </span>
      <span className="min-w-0 text-note text-quiet break-words max-sm:row-start-2">
        {m.state === "here" &&
          (m.signed_in.length === 0
            ? "Not signed in"
            : `Signed in: ${m.signed_in.map((s) => `${s.device}, ${weekdayAndTime(s.last_seen_at)}`).join("; ")}`)}
      </span>
      <Button
        aria-label={`Change ${m.name}`}
        className="max-sm:row-span-2 max-sm:row-start-1"
        onClick={() => change(m)}
      >
        Change
      </Button>
    </li>
  );
}

const roles = (Object.keys(roleWords) as Role[]).map((value) => ({ value, words: roleWords[value] }));

function Secret(props: {
  role: Role;
  label: string;
  hint?: string;
  value: string;
  set: (v: string) => void;
  fault?: string | undefined;
}) {
  const password = props.role === "owner";
  return (
    <Field
      label={props.label}
      hint={
        props.hint ?? (password ? "At least 10 characters." : "4 to 8 digits, not the first that anybody would try.")
      }
      fault={props.fault}
    >
      {(a) => (
        <Input
          {...a}
          type="password"
          name="secret"
          inputMode={password ? "text" : "numeric"}
          autoComplete="new-password"
          maxLength={200}
          value={props.value}
          onChange={(e) => props.set(e.target.value)}
        />
      )}
    </Field>
  );
}

function Name({ value, set, fault }: { value: string; set: (v: string) => void; fault: string | undefined }) {
  return (
    <Field label="Name" hint="As it stands in the history and on tickets." fault={fault}>
      {(a) => <Input {...a} name="name" maxLength={80} value={value} onChange={(e) => set(e.target.value)} />}
    </Field>
  );
}

function AddDialog({ close }: { close: () => void }) {
  const [name, setName] = useState("");
  const [role, setRole] = useState<Role>("mechanic");
  const [secret, setSecret] = useState("");
  const add = useWrite(
    (body: { name: string; role: Role; secret: string }, key) =>
      ask(api.POST("/staff", { params: { header: { "Idempotency-Key": key } }, body })),
    topics,
    close,
  );
  return (
    <FormDialog
      title="Add a person"
      action="Add"
      pending={add.isPending}
      error={add.error}
      close={close}
      send={() => add.mutate({ name, role, secret })}
    >
      <Name value={name} set={setName} fault={faultAt(add.error, "name")} />
      <Choice label="Role" value={role} options={roles} choose={setRole} />
      <Secret
        role={role}
        label={role === "owner" ? "Password" : "PIN"}
        value={secret}
        set={setSecret}
        fault={faultAt(add.error, "secret")}
      />
    </FormDialog>
  );
}

const factsOf = (m: StaffMember) => ({ name: m.name, role: m.role, state: m.state });

function ChangeDialog({ member: m, close }: { member: StaffMember; close: () => void }) {
  const [name, setName] = useState(m.name);
  const [role, setRole] = useState<Role>(m.role);
  const [state, setState] = useState<StaffState>(m.state);
  const [secret, setSecret] = useState("");
  const send = useWrite(
    (version: number, key) =>
      ask(
        api.PUT("/staff/{person}", {
          params: { path: { person: m.id }, header: { "Idempotency-Key": key } },
          body: { version, name, role, state, ...(secret ? { secret } : {}) },
        }),
      ),
    topics,
    close,
  );
  const other = (role === "owner") !== (m.role === "owner");
  return (
    <EditDialog<StaffMember>
      title={m.name}
      action="Save"
      pending={send.isPending}
      error={send.error}
      facts={factsOf}
      close={close}
      send={(over) => send.mutate(over ?? m.version)}
    >
      <Name value={name} set={setName} fault={faultAt(send.error, "name")} />
      <Choice label="Role" value={role} options={roles} choose={setRole} />
      <Choice
        label="Status"
        value={state}
        options={[
          { value: "here", words: "Works here" },
          { value: "locked", words: "Locked out" },
          { value: "left", words: "Left" },
        ]}
        choose={setState}
      />
      <Secret
        role={role}
        label={role === "owner" ? "New password" : "New PIN"}
        {...(other ? {} : { hint: "Leave it empty to keep the present one." })}
        value={secret}
        set={setSecret}
        fault={faultAt(send.error, "secret")}
      />
      {(state !== "here" || role !== m.role || secret) && (
        <p className="text-note text-quiet">They are signed out everywhere at once.</p>
      )}
    </EditDialog>
  );
}
