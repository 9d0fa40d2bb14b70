import { Link } from "react-router";
import { Choice } from "./parts";

export type Which = "current" | "archived";

/** Over a list: what to find in it, current or archived, and adding to it. */
export function ListHead(props: {
  find: { words: string; label: string; value: string; set: (q: string) => void };
  which: { current: string; value: Which; set: (w: Which) => void };
  add: { words: string; to: string };
}) {
  const { find, which, add } = props;
  return (
    <div className="flex flex-wrap items-end gap-3">
      <input
        className="entry max-w-md grow basis-56"
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
      <Link to={add.to} className="deed-main ml-auto max-sm:w-full">
        {add.words} <kbd className="key">N</kbd>
      </Link>
    </div>
  );
}
