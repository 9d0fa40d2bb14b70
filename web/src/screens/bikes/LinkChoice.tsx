import type { NewLink, ReplacementPlan, StockItem } from "../../api/client";
import { Input, Radio } from "../../ui/controls";
import { Field, Tick } from "../../ui/parts";
import { faultAt } from "../../ui/sending";
import { speeds } from "../../words/bikes";
import { spentWords } from "../../words/fitting";

/** What closes the chain, as it is chosen. */
export type LinkDraft = {
  from: "shelf" | "box" | "old" | "other" | "pin";
  stock: string;
  sound: boolean;
  what: string;
  sprockets: string;
};

export const noLink: LinkDraft = { from: "shelf", stock: "", sound: false, what: "", sprockets: "" };

/** The joining link that was chosen; undefined for a pin. */
export function linkOf(d: LinkDraft): NewLink | undefined {
  switch (d.from) {
    case "pin":
      return undefined;
    case "box":
      return { from_box: true };
    case "old":
      return { reuse: true, sound: d.sound };
    case "shelf":
      return d.stock ? { stock_item_id: d.stock } : { what: "" };
    case "other":
      return {
        what: d.what.trim(),
        ...(/^\d{1,2}$/.test(d.sprockets.trim()) ? { sprockets: Number(d.sprockets.trim()) } : {}),
      };
  }
}

type Props = {
  draft: LinkDraft;
  set: (d: LinkDraft) => void;
  old: ReplacementPlan["old_link"] | undefined;
  links: StockItem[];
  box: boolean; // the chain's box has one
  pin: boolean; // a pin may close it instead
  error: unknown;
};

/** Which joining link closes the chain. One that is spent is said to be, and refused by the server. */
export function LinkChoice({ draft, set, old, links, box, pin, error }: Props) {
  const fault =
    faultAt(error, "joining_link.reuse") ??
    faultAt(error, "joining_link.from_box") ??
    faultAt(error, "joining_link.sprockets") ??
    faultAt(error, "joining_link.stock_item_id") ??
    faultAt(error, "joining_link");
  const choices: { from: LinkDraft["from"]; stock?: string; words: string; more?: string | undefined }[] = [
    ...links.map((i) => ({
      from: "shelf" as const,
      stock: i.id,
      words: i.facts.name,
      more: `${speeds(i.facts.sprockets)}, ${i.facts.quantity} on the shelf`,
    })),
    ...(box ? [{ from: "box" as const, words: "The one in the chain's box" }] : []),
    ...(old
      ? [
          {
            from: "old" as const,
            words: "The one it had",
            more: old.spent ? spentWords[old.spent] : `closed ${old.uses} times so far`,
          },
        ]
      : []),
    { from: "other", words: "Another, not from the shelf" },
    ...(pin ? [{ from: "pin" as const, words: "A joining pin" }] : []),
  ];
  return (
    <fieldset className="flex min-w-0 flex-col gap-1.5">
      <legend className="fieldset-legend">Closed with</legend>
      {links.length === 0 && (
        <p className="text-note font-semibold text-due-ink">No joining link of this width is on the shelf.</p>
      )}
      {choices.map((c) => (
        <label
          key={c.from + (c.stock ?? "")}
          className="flex min-h-(--target) items-center gap-3 rounded-field border border-base-300 px-3 has-checked:border-base-content has-checked:bg-base-200"
        >
          <Radio
            name="link"
            checked={draft.from === c.from && (c.stock === undefined || draft.stock === c.stock)}
            onChange={() => set({ ...draft, from: c.from, stock: c.stock ?? "" })}
          />
          <span className="min-w-0">
            {c.words}
            {c.more && <span className="block text-fine text-quiet">{c.more}</span>}
          </span>
        </label>
      ))}
      {draft.from === "old" && (
        <Tick on={draft.sound} set={(on) => set({ ...draft, sound: on })}>
          Looked at: no wear at the pin seat, and it snaps firmly
        </Tick>
      )}
      {draft.from === "other" && (
        <div className="grid gap-2 sm:grid-cols-[minmax(0,1fr)_150px]">
          <Field label="Which">
            {(a) => (
              <Input
                {...a}
                name="link_what"
                maxLength={120}
                value={draft.what}
                onChange={(e) => set({ ...draft, what: e.target.value })}
              />
            )}
          </Field>
          <Field label="Speeds">
            {(a) => (
              <Input
                {...a}
                name="link_sprockets"
                inputMode="numeric"
                maxLength={2}
                value={draft.sprockets}
                onChange={(e) => set({ ...draft, sprockets: e.target.value })}
              />
            )}
          </Field>
        </div>
      )}
      {fault && (
        <p role="alert" className="text-note font-semibold text-error">
          {fault}
        </p>
      )}
    </fieldset>
  );
}
