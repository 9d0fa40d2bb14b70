import { ButtonLink } from "./ButtonLink";
import { Input, Key } from "./controls";
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
      <ButtonLink to={add.to} kind="main" className="ml-auto max-sm:w-full">
        {add.words} <Key>N</Key>
      </ButtonLink>
    </div>
  );
}
