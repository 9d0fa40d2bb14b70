import { Link } from "react-router";
import { isAnothers, useUnsent } from "../outbox/queue";
import { nearTime } from "./format";

/** How many stand here: the others are on the list of all. */
const most = 5;

/** What this device wrote about a bike or a job last and did not send yet: it stands where it will stand, marked. */
export function Unsent({ tag, job }: { tag?: string; job?: string }) {
  const list = useUnsent().filter((k) => (job ? k.job === job : k.tag === tag) && !isAnothers(k));
  if (list.length === 0) return null;
  return (
    <section aria-label="Not sent yet" data-testid="not-sent">
      <h3 className="text-fine font-semibold text-due-ink">Not sent yet</h3>
      {list.length > most && (
        <Link
          to="/unsent"
          className="flex min-h-(--target) items-center text-note text-quiet underline underline-offset-4"
        >
          {list.length - most} before these
        </Link>
      )}
      <ul className="mt-1">
        {list.slice(-most).map((k) => (
          <li key={k.key} className="border-t border-dashed border-base-300 py-1 text-note wrap-anywhere">
            {k.words} <span className="text-quiet">{nearTime(new Date(k.at + k.behind).toISOString())}</span>
            {k.refused && <b className="text-error"> not taken</b>}
          </li>
        ))}
      </ul>
    </section>
  );
}
