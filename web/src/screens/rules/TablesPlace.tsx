import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type PassportTaken, type TableName, type TableRead } from "../../api/client";
import { Button, For, PressButton, Table } from "../../ui/controls";
import { FileButton } from "../../ui/FileButton";
import { useMay, useWhyNot } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { inShopUnits } from "../../ui/units";
import { nobodyTyped, OwnerPicker, type PickedOwner } from "../customers/OwnerPicker";

const tables: Record<TableName, [name: string, what: string]> = {
  customers: ["Customers", "name, phone, email, contact_way, consent, notes"],
  bikes: ["Bikes", "owner (as named here), make, model, colour, kind, sprocket_count and what else is known"],
  odometer: ["Odometer readings", "tag, read_at, km, new_computer"],
  measurements: ["Measurements", "tag, taken_at, instrument (as on the bench), place_1 to place_3 as typed, links"],
  services: ["Services", "tag, done_at, task, note"],
};

/** What goes out of the shop and comes in: tables, and bikes by their passports. */
export function TablesPlace() {
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Import and export</Heading>
      <For may="exportTable">
        <section className="card card-border bg-base-100 flex flex-col gap-3 p-4" aria-label="Tables out">
          <h2 className="text-lg">Tables out</h2>
          <p className="text-quiet">As CSV, with a header row, in UTF-8.</p>
          <ul className="flex flex-wrap gap-2">
            {(Object.keys(tables) as TableName[]).map((t) => (
              <li key={t}>
                <a className="btn btn-outline" href={`/api/v1/tables/${t}`} download={`${t}.csv`}>
                  {tables[t][0]}
                </a>
              </li>
            ))}
          </ul>
        </section>
      </For>
      <For may="importTable">
        <TableIn />
      </For>
      <For may="takePassport">
        <PassportIn />
      </For>
      <Nothing />
      <p className="card card-border bg-base-100 p-4 text-quiet">
        The whole shop goes into one file with <code className="font-mono">pony backup FILE</code> and comes back into
        an empty database with <code className="font-mono">pony restore FILE</code>.
      </p>
    </div>
  );
}

/** Said to whoever may take nothing in or out. */
function Nothing() {
  const why = useWhyNot("exportTable");
  const some = [useMay("importTable"), useMay("takePassport")].includes(true);
  if (!why || some) return null;
  return <p className="card card-border bg-base-100 p-4">{why}</p>;
}

/** Sends a file as it is. */
const bytes = (file: File) => ({
  headers: { "Content-Type": "application/octet-stream" },
  body: file as unknown as string, // the contract's word for bytes
  bodySerializer: (b: unknown) => b as string,
});

function TableIn() {
  const [table, setTable] = useState<TableName>("customers");
  const [file, setFile] = useState<File | null>(null);
  const read = useWrite(
    ({ from, write }: { from: File; write: boolean }) =>
      ask(api.POST("/tables/{table}", { params: { path: { table }, query: { write } }, ...bytes(from) })),
    [{ topic: "everything" }],
  );
  const choose = (chosen: File | null) => {
    setFile(chosen);
    read.reset();
    if (chosen) read.mutate({ from: chosen, write: false });
  };
  const r = read.data;
  return (
    <section className="card card-border bg-base-100 flex flex-col gap-3 p-4" aria-label="A table in">
      <h2 className="text-lg">A table in</h2>
      <fieldset className="flex flex-wrap gap-1.5" aria-label="Which table">
        {(Object.keys(tables) as TableName[]).map((t) => (
          <PressButton
            key={t}
            on={t === table}
            onClick={() => {
              setTable(t);
              choose(null);
            }}
          >
            {tables[t][0]}
          </PressButton>
        ))}
      </fieldset>
      <p className="text-note text-quiet">Columns: {tables[table][1]}</p>
      <FileButton words="Choose a CSV file" name="table" accept=".csv" choose={choose} />
      {read.isPending && <p role="status">Reading {file?.name}…</p>}
      {read.isError && <Failure error={read.error} />}
      {r && (
        <>
          <p role="status" className="font-semibold">
            {r.written > 0
              ? `${r.written} rows are written.`
              : r.wrong > 0
                ? `${r.wrong} of ${r.total} rows are not right: nothing is written until all are.`
                : `${r.total} rows are understood. Nothing is written yet.`}
          </p>
          {r.written === 0 && r.wrong === 0 && r.total > 0 && file && (
            <Button
              kind="main"
              className="self-start"
              disabled={read.isPending}
              onClick={() => read.mutate({ from: file, write: true })}
            >
              Write all {r.total} rows
            </Button>
          )}
          <p className="text-note text-quiet">
            Read as {r.encoding} with {separators[r.separator] ?? r.separator} between cells: look whether names are
            spelled right.
            {r.rows.length < r.total && ` ${r.rows.length} of ${r.total} rows are shown.`}
          </p>
          <Preview read={r} />
        </>
      )}
    </section>
  );
}

/** Rows with something wrong first; of the others as many as anybody looks at. */
const separators: Record<string, string> = { ",": "commas", ";": "semicolons", "\t": "tabs" };

function Preview({ read: r }: { read: TableRead }) {
  const rows = [...r.rows].sort((a, b) => Number(b.faults.length > 0) - Number(a.faults.length > 0)).slice(0, 200);
  return (
    <div className="max-h-[60vh] overflow-auto">
      <Table className="text-note">
        <thead>
          <tr className="text-quiet">
            <th className="py-1 pr-3 font-normal">Line</th>
            <th className="pr-3 font-normal">Understood</th>
            {r.columns.map((c) => (
              <th key={c} className="pr-3 font-normal">
                {c}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.line} className="border-t border-base-300 align-top" data-testid="row">
              <td className="py-1 pr-3 font-mono">{row.line}</td>
              <td className="min-w-48 py-1 pr-3">
                {row.faults.length === 0
                  ? row.understood
                  : row.faults.map((f) => (
                      <p key={f.path + f.code} className="font-semibold text-error">
                        {f.path && `${f.path}: `}
                        {inShopUnits(f.message)}
                      </p>
                    ))}
              </td>
              {r.columns.map((c, i) => (
                <td
                  key={c}
                  className={`max-w-48 truncate py-1 pr-3 ${row.faults.some((f) => f.path === c) ? "font-semibold text-error" : ""}`}
                >
                  {row.cells[i]}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </Table>
    </div>
  );
}

function PassportIn() {
  const [owner, setOwner] = useState<PickedOwner | null>(null);
  const [typed, setTyped] = useState(nobodyTyped);
  const [fault, setFault] = useState("");
  const take = useWrite(
    (file: File) =>
      ask(api.POST("/passports", { params: { query: owner ? { customer: owner.id } : {} }, ...bytes(file) })),
    [{ topic: "everything" }],
  );
  return (
    <section className="card card-border bg-base-100 flex flex-col gap-3 p-4" aria-label="A bike by its passport">
      <h2 className="text-lg">A bike by its passport</h2>
      <p className="text-quiet">
        From another shop that keeps such records. A bike that is here already gets what is new; the same passport taken
        twice adds nothing. Its{" "}
        <a className="underline underline-offset-4" href="/schemas/bike-passport.json">
          JSON Schema
        </a>
        .
      </p>
      <OwnerPicker
        owner={owner}
        pick={(o) => {
          setOwner(o);
          setTyped(nobodyTyped);
          setFault("");
        }}
        typed={typed}
        type={setTyped}
        fault={fault || undefined}
      />
      <FileButton
        words="Choose a passport"
        name="passport"
        accept=".json"
        choose={(f) => {
          const open = !owner && (typed.adding || typed.q.trim() !== "");
          setFault(open ? "Choose or add this customer first, then the passport." : "");
          if (f && !open) take.mutate(f);
        }}
      />
      {take.isError && <Failure error={take.error} />}
      {take.data && <Taken taken={take.data} />}
    </section>
  );
}

function Taken({ taken: t }: { taken: PassportTaken }) {
  return (
    <p role="status">
      {t.new ? "A new bike" : "A bike that is here"}, {t.added} entries taken
      {t.known > 0 && `, ${t.known} were here`}
      {t.kept > 0 && `, ${t.kept} of kinds unknown here kept to be given on`}.{" "}
      <Link to={`/bikes/${t.tag}`} className="underline underline-offset-4">
        Open {t.tag}
      </Link>
    </p>
  );
}
