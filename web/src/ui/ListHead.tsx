import { ButtonLink } from "./ButtonLink";
import { Button, Input, Key } from "./controls";
import type { Operation } from "./frame";
import { Choice } from "./parts";

export type Which = "current" | "archived";

/** Over a list: what to find in it, current or archived, and adding to it. */
export function ListHead(props: {
  find: { words: string; label: string; value: string; set: (q: string) => void };
  which: { current: string; value: Which; set: (w: Which) => void };
  add: { words: string; to: string; may: Operation };
}) {
  const { find, which, add } = props;
  return (
    <div className="flex flex-wrap items-end gap-3">
      <Input
        className="max-w-md grow basis-56"
        type="search"
        placeholder={find.words}
        aria-label={find.label}
        value={find.value}
        maxLength={100}
        onChange={(e) => find.set(e.target.value)}
      />
      <Choice
        label=""
        value={which.value}
        options={[
          { value: "current", words: which.current },
          { value: "archived", words: "Archived" },
        ]}
        choose={which.set}
      />
      <ButtonLink to={add.to} may={add.may} kind="main" className="ml-auto max-sm:w-full">
        {add.words} <Key>N</Key>
      </ButtonLink>
    </div>
  );
}

/** How many a list has, and of what was looked for. */
export function Counted({ total = 0, one, q = "" }: { total: number | undefined; one: string; q?: string }) {
  if (total === 0) return null;
  return (
    <p className="px-4 py-2 text-fine text-quiet" role="status">
      {total > mostCounted ? `more than ${mostCounted}` : total} {total === 1 ? one : `${one}s`}
      {q !== "" && ` with “${q}”`}
    </p>
  );
}

/** What the server counts at most. */
const mostCounted = 200;

/** The next page of a list, where there is one. */
export function ShowMore({
  query,
}: {
  query: { hasNextPage: boolean; isFetchingNextPage: boolean; fetchNextPage: () => unknown };
}) {
  if (!query.hasNextPage) return null;
  return (
    <div className="border-t border-base-300 p-3">
      <Button onClick={() => void query.fetchNextPage()} disabled={query.isFetchingNextPage}>
        {query.isFetchingNextPage ? "Fetching…" : "Show more"}
      </Button>
    </div>
  );
}
