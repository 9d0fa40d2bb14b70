import { isAnothers, useUnsent } from "../outbox/queue";
import { nearTime } from "./format";

/** What this device wrote about a bike or a job and did not send yet: it stands where it will stand, marked. */
export function Unsent({ tag, job }: { tag?: string; job?: string }) {
  const list = useUnsent().filter((k) => (job ? k.job === job : k.tag === tag) && !isAnothers(k));
  if (list.length === 0) return null;
  return (
    <section aria-label="Not sent yet" data-testid="not-sent">
      <h3 className="text-fine font-semibold text-due-ink">Not sent yet</h3>
      <ul className="mt-1">
        {list.map((k) => (
          <li key={k.key} className="border-t border-dashed border-base-300 py-1 text-note wrap-anywhere">
            {k.words} <span className="text-quiet">{nearTime(new Date(k.at + k.behind).toISOString())}</span>
            {k.refused && <b className="text-error"> not taken</b>}
          </li>
        ))}
      </ul>
    </section>
  );
}
