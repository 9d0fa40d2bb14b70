import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Permission, type Permissions, type Role } from "../../api/client";
import { permissionsOptions } from "../../api/queries";
import { Conflict, versionsOf } from "../../ui/Conflict";
import { Button, Checkbox, Table } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { useMay, useWhyNot } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { permissionWords, roleWords } from "../../words/people";

const columns: Role[] = ["mechanic", "counter", "apprentice"];

/** Who may do what: read by everybody, changed by the shop's owner within its bounds. */
export function PermissionsPlace() {
  const table = useQuery(permissionsOptions);
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Who may do what</Heading>
      <Fetched query={table} what="the table">
        {(t) => <Rows table={t} />}
      </Fetched>
    </div>
  );
}

type Ticks = Partial<Record<Permission, Role[]>>;

/** The rows of a table as a list of who may what, for laying two versions side by side. */
const said = (rows: { permission: Permission; roles: Role[] }[]) =>
  Object.fromEntries(
    rows.map((r) => [
      permissionWords[r.permission][0],
      r.roles
        .filter((x) => x !== "owner")
        .map((x) => roleWords[x])
        .join(", ") || "the shop's owner alone",
    ]),
  );

function Rows({ table }: { table: Permissions }) {
  const may = useMay("changePermissions");
  const why = useWhyNot("changePermissions");
  // What is ticked here is over the table as it was then: somebody else may change it meanwhile.
  const [{ ticks, over }, setTyped] = useState<{ ticks: Ticks; over: number }>({ ticks: {}, over: 0 });
  const setTicks = (ticks: Ticks) =>
    setTyped((t) => ({ ticks, over: Object.keys(t.ticks).length > 0 ? t.over : table.version }));
  const changed = table.rows.filter((r) => ticks[r.permission] !== undefined);
  const send = useWrite(
    (version: number, key) =>
      ask(
        api.PUT("/permissions", {
          params: { header: { "Idempotency-Key": key } },
          body: { version, rows: changed.map((r) => ({ permission: r.permission, roles: ticks[r.permission] ?? [] })) },
        }),
      ),
    [{ topic: "rules" }],
    () => setTyped({ ticks: {}, over: 0 }),
  );
  const versions = versionsOf(send.error);
  const theirs = versions?.theirs as Permissions | undefined;
  const set = (p: Permission, was: Role[], role: Role, on: boolean) => {
    let roles = on ? [...was.filter((r) => r !== role), role] : was.filter((r) => r !== role);
    // An apprentice never may what a mechanic may not.
    if (role === "mechanic" && !on) roles = roles.filter((r) => r !== "apprentice");
    if (role === "apprentice" && on && !roles.includes("mechanic")) roles.push("mechanic");
    setTicks({ ...ticks, [p]: roles.filter((r) => r !== "owner") });
  };
  return (
    <>
      <p className="max-w-prose text-quiet">
        {why ??
          "Your ticks hold at once, on every screen. The shop's owner may do everything; rows without boxes are the same in every shop."}
      </p>
      {versions && theirs && (
        <Conflict
          yours={said((versions.yours as Pick<Permissions, "rows">).rows)}
          theirs={said(theirs.rows.filter((r) => ticks[r.permission] !== undefined))}
          keepMine={() => send.mutate(theirs.version)}
          takeTheirs={() => {
            setTicks({});
            send.reset();
          }}
        />
      )}
      {send.isError && !versions && <Failure error={send.error} />}
      <section className="card card-border bg-base-100 overflow-x-auto" aria-label="Who may do what">
        <Table>
          <thead className="text-fine text-quiet">
            <tr>
              <th className="py-2 pr-3 pl-4 font-semibold">What</th>
              {columns.map((role) => (
                <th key={role} className="px-2 text-center font-semibold">
                  {roleWords[role]}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.rows.map((r) => {
              const [name, what] = permissionWords[r.permission];
              const roles = ticks[r.permission] ?? r.roles;
              const usual = columns.every((c) => roles.includes(c) === r.usual.includes(c));
              return (
                <tr key={r.permission} data-testid="permission" className="border-t border-base-300">
                  <td className="py-2 pr-3 pl-4">
                    <span className="block font-semibold">{name}</span>
                    <span className="block text-note text-quiet">
                      {what}
                      {!usual && ". Not as usual here"}
                    </span>
                  </td>
                  {columns.map((role) => (
                    <td key={role} className="px-2 text-center">
                      {may && !r.fixed ? (
                        <label className="inline-flex min-h-(--target) min-w-(--target) items-center justify-center">
                          <Checkbox
                            aria-label={`${name}: ${roleWords[role]}`}
                            checked={roles.includes(role)}
                            onChange={(e) => set(r.permission, roles, role, e.target.checked)}
                          />
                        </label>
                      ) : (
                        <span className={roles.includes(role) ? "font-semibold" : "text-quiet"}>
                          {roles.includes(role) ? "yes" : "–"}
                        </span>
                      )}
                    </td>
                  ))}
                </tr>
              );
            })}
          </tbody>
        </Table>
      </section>
      {may && changed.length > 0 && (
        <div className="sticky bottom-0 flex flex-wrap gap-2 bg-base-200 py-3">
          <Button kind="main" disabled={send.isPending} onClick={() => send.mutate(over)}>
            Save {changed.length === 1 ? "the change" : `${changed.length} changes`}
          </Button>
          <Button kind="quiet" onClick={() => setTicks({})}>
            Cancel
          </Button>
        </div>
      )}
    </>
  );
}
