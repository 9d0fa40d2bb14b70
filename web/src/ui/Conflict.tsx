import { Problem } from "../api/client";
import { factWords } from "../words/bikes";
import { Button, Table } from "./controls";

/** The two versions of a conflict, if the error is one. */
export function versionsOf(error: unknown): { yours: unknown; theirs: unknown } | null {
  if (error instanceof Problem && error.body.code === "changed-meanwhile")
    return { yours: error.body.yours, theirs: error.body.theirs };
  return null;
}

type Facts = Record<string, unknown>;

/** Names the facts in which two versions differ. */
export function differing(a: Facts, b: Facts): string[] {
  const said = (v: unknown) => JSON.stringify(v ?? "");
  return [...new Set([...Object.keys(a), ...Object.keys(b)])].filter((k) => said(a[k]) !== said(b[k])).sort();
}

/** Shows what somebody else wrote meanwhile beside what was typed here, to choose one. */
export function Conflict(props: { yours: Facts; theirs: Facts; keepMine: () => void; takeTheirs: () => void }) {
  const facts = differing(props.yours, props.theirs);
  return (
    <section
      role="alert"
      className="card card-border bg-base-100 flex flex-col gap-3 border-l-4 border-l-warning p-4"
      aria-label="Two versions"
    >
      <h2 className="text-lg">Somebody else changed this meanwhile.</h2>
      <div className="overflow-x-auto">
        <Table>
          <thead className="text-fine text-quiet">
            <tr>
              <th className="pr-3 font-semibold">Fact</th>
              <th className="pr-3 font-semibold">Yours</th>
              <th className="font-semibold">There now</th>
            </tr>
          </thead>
          <tbody>
            {facts.map((f) => (
              <tr key={f} className="border-t border-base-300 align-top">
                <td className="py-1 pr-3">{factWords[f] ?? f}</td>
                <td className="py-1 pr-3 font-semibold break-words">{shown(props.yours[f])}</td>
                <td className="py-1 font-semibold break-words">{shown(props.theirs[f])}</td>
              </tr>
            ))}
            {facts.length === 0 && (
              <tr className="border-t border-base-300">
                <td colSpan={3} className="py-1">
                  Both say the same.
                </td>
              </tr>
            )}
          </tbody>
        </Table>
      </div>
      <div className="flex flex-wrap gap-3">
        <Button kind="main" onClick={props.keepMine}>
          Keep mine
        </Button>
        <Button onClick={props.takeTheirs}>Take what is there now</Button>
      </div>
    </section>
  );
}

function shown(v: unknown): string {
  if (v === undefined || v === null || v === "") return "not noted";
  if (Array.isArray(v)) return v.map(shown).join(typeof v[0] === "object" ? "; " : ", ");
  if (typeof v === "boolean") return v ? "yes" : "no";
  if (typeof v === "object")
    return Object.entries(v)
      .map(([k, x]) => `${k} ${x}`)
      .join(", ");
  return String(v);
}
