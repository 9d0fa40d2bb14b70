import { Link } from "react-router";
import type { Bike, ReplacementPlan } from "../../api/client";
import { sizerQuestion } from "../../api/queries";
import { CutDrawing } from "../../draw/GearDrawing";
import { Asked, useAnswer } from "../../ui/answer";
import { Button, Checkbox, Input, Radio } from "../../ui/controls";
import { Field, Tick } from "../../ui/parts";
import { amount } from "../../ui/units";
import { speeds } from "../../words/bikes";
import { lengthWarnings } from "../../words/length";
import { fromBike, toQuestion } from "../sizer/draft";
import { type Draft, linkFor, wholeOf } from "./replacing";

type PartProps = {
  draft: Draft;
  set: (part: Partial<Draft>) => void;
  plan: ReplacementPlan;
  fault: (path: string) => string | undefined;
};

export function ChainChoice({ draft, set, plan, fault }: PartProps) {
  const choices: { from: Draft["from"]; id: string; words: string; more: string }[] = [
    ...plan.chains.map((c) => ({
      from: "shelf" as const,
      id: c.id,
      words: c.facts.name,
      more: `${speeds(c.facts.sprockets)}${c.facts.box_links ? `, box of ${c.facts.box_links}` : ""}, ${c.facts.quantity} on the shelf`,
    })),
    ...plan.kept.map((c) => ({
      from: "kept" as const,
      id: c.part_id,
      words: `Kept: ${c.what || "a chain of this bike"}`,
      more: `${c.links ? `${c.links} links, ` : ""}ran ${amount("distance", c.hard_km)} of wear`,
    })),
    { from: "other", id: "", words: "Another, not from the shelf", more: "" },
  ];
  const width = wholeOf(draft.sprockets);
  return (
    <>
      <fieldset className="flex min-w-0 flex-col gap-1.5">
        <legend className="fieldset-legend">Which chain</legend>
        {choices.map((c) => (
          <label
            key={c.from + c.id}
            className="flex min-h-(--target) items-center gap-3 rounded-field border border-base-300 px-3 has-checked:border-base-content has-checked:bg-base-200"
          >
            <Radio
              name="chain"
              checked={draft.from === c.from && draft.chain === c.id}
              onChange={() => set({ from: c.from, chain: c.id, link: linkFor(plan, c.id, draft.link) })}
            />
            <span className="min-w-0">
              {c.words}
              {c.more && <span className="block text-fine text-quiet">{c.more}</span>}
            </span>
          </label>
        ))}
      </fieldset>
      {fault("chain.stock_item_id") && (
        <p role="alert" className="font-semibold text-error">
          {fault("chain.stock_item_id")}
        </p>
      )}
      {draft.from === "other" && (
        <div className="grid gap-2 sm:grid-cols-[minmax(0,1fr)_150px_150px]">
          <Field label="Which">
            {(a) => (
              <Input
                {...a}
                name="what"
                maxLength={120}
                value={draft.what}
                onChange={(e) => set({ what: e.target.value })}
              />
            )}
          </Field>
          <Field label="Speeds">
            {(a) => (
              <Input
                {...a}
                name="sprockets"
                inputMode="numeric"
                maxLength={2}
                value={draft.sprockets}
                onChange={(e) => set({ sprockets: e.target.value })}
              />
            )}
          </Field>
          <Field label="In the box" unit="links">
            {(a) => (
              <Input
                {...a}
                name="box"
                inputMode="numeric"
                maxLength={3}
                value={draft.box}
                onChange={(e) => set({ box: e.target.value })}
              />
            )}
          </Field>
        </div>
      )}
      {draft.from === "other" && plan.sprockets && width && width !== plan.sprockets && (
        <p className="border-l-4 border-warning pl-3 text-note font-semibold">
          A {speeds(width)} chain on a {speeds(plan.sprockets)} bike: its width does not match.
        </p>
      )}
      <Field
        label="Direction, where it is marked"
        hint="Marking outward, arrow with the chain's travel on the top run."
      >
        {(a) => (
          <Input
            {...a}
            name="direction"
            maxLength={120}
            value={draft.direction}
            onChange={(e) => set({ direction: e.target.value })}
          />
        )}
      </Field>
    </>
  );
}

type LengthProps = PartProps & {
  bike: Bike;
  box: number | undefined;
  boxHasLink: boolean;
  keptLinks: number | undefined;
};

/** How many links, by the sizer's answer for this bike and box, and where to cut. */
export function Length({ bike, draft, set, box, boxHasLink, fault, keptLinks }: LengthProps) {
  const sizer = useAnswer(
    sizerQuestion({
      ...toQuestion(fromBike(bike.tag, bike.facts)).question,
      joint: draft.joint,
      ...(box === undefined ? {} : { box_links: box }),
      ...(boxHasLink ? { box_has_joining_link: true } : {}),
      ...(draft.halfLink ? { half_link: true } : {}),
    }),
  );
  if (draft.from === "kept" && keptLinks)
    return (
      <p>
        It has <b className="font-mono">{keptLinks}</b> links already.
      </p>
    );
  return (
    <div className="grid gap-4 md:grid-cols-2">
      <div className="flex flex-col gap-2">
        <Asked of={sizer} className="flex flex-col gap-2">
          {({ length: l }, old) =>
            l ? (
              <>
                <p>
                  Chain length says <b className="font-mono text-xl">keep {l.keep_links}</b>
                  {l.remove_links !== null && l.short_by_links === 0 && `, take off ${l.remove_links}`}
                </p>
                {l.warnings.map((w) => (
                  <p key={w.code} className="border-l-4 border-error pl-3 text-note font-semibold">
                    {lengthWarnings[w.code]}
                  </p>
                ))}
                <Button className="self-start" disabled={old} onClick={() => set({ links: String(l.keep_links) })}>
                  Take {l.keep_links}
                </Button>
              </>
            ) : (
              <p className="text-quiet">
                Teeth and chainstay are not all on record: work it out under Chain length, or count the old chain.
              </p>
            )
          }
        </Asked>
        <Link
          to={`/chain-length?tag=${bike.tag}`}
          className="min-h-(--target) self-start py-2 underline underline-offset-4"
        >
          View under Chain length
        </Link>
        <Field label="Links as it is closed" unit="links" fault={fault("chain.links")}>
          {(f) => (
            <Input
              {...f}
              name="links"
              inputMode="numeric"
              maxLength={4}
              className="font-mono text-xl"
              value={draft.links}
              onChange={(e) => set({ links: e.target.value })}
            />
          )}
        </Field>
        {bike.facts.drivetrain_kind !== "derailleur" && (
          <Tick on={draft.halfLink} set={(on) => set({ halfLink: on })}>
            Closed with a half-link
          </Tick>
        )}
        {fault("chain.half_link") && <p className="font-semibold text-error">{fault("chain.half_link")}</p>}
      </div>
      {!sizer.error && (
        <Asked of={sizer} words={null}>
          {(a) =>
            a.cut &&
            a.length?.short_by_links === 0 && (
              <>
                <CutDrawing after={a.cut.links} lastInner={a.cut.last_inner} />
                <p className="text-note text-quiet">
                  Begin at an inner link, count {a.cut.links} and press out the pin after them. Never lay it beside the
                  old chain: that one has grown.
                </p>
              </>
            )
          }
        </Asked>
      )}
    </div>
  );
}

export function PartsWithIt({ draft, set }: Pick<PartProps, "draft" | "set">) {
  const words = { sprockets: "Cassette", rings: "Chainrings", pulleys: "Jockey wheels" } as const;
  return (
    <div className="flex flex-col gap-2">
      {(["sprockets", "rings", "pulleys"] as const).map((part) => {
        const what = draft.fitted[part];
        return (
          <div key={part} className="grid items-center gap-2 sm:grid-cols-[200px_minmax(0,1fr)]">
            <label className="flex min-h-(--target) items-center gap-3">
              <Checkbox
                name={`fit_${part}`}
                checked={what !== null}
                onChange={(e) => set({ fitted: { ...draft.fitted, [part]: e.target.checked ? "" : null } })}
              />
              New {words[part].toLowerCase()}
            </label>
            {what !== null && (
              <Input
                name={`what_${part}`}
                aria-label={`Which ${words[part].toLowerCase()}`}
                placeholder="which: 11–34, wide-spline freehub"
                maxLength={120}
                value={what}
                onChange={(e) => set({ fitted: { ...draft.fitted, [part]: e.target.value } })}
              />
            )}
          </div>
        );
      })}
    </div>
  );
}
