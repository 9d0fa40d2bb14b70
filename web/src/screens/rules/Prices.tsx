import type { RulesView } from "../../api/client";
import { classWords } from "../../words/wear";
import { changedClass, classes, type PartProps } from "./classes";
import { priceNames, setNames } from "./draft";
import { Line, Section } from "./fields";

export const priceWords: Record<(typeof priceNames)[number], string> = {
  chain: "Chain",
  sprockets: "Cassette",
  rings: "Chainrings",
  labour_chain: "Chain, work",
  labour_sprockets: "Cassette, work",
  labour_rings: "Chainrings, work",
};

export const setWords: Record<(typeof setNames)[number], string> = {
  half: "changed at 0.5 %",
  three_quarter: "changed at 0.75 %",
  one: "changed at 1 % or later",
};

/** What parts and the work on them cost, and how many chains a set of sprockets sees. */
export function Prices({ view, draft, change, fault }: PartProps & { view: RulesView }) {
  return (
    <Section title="Prices">
      <p className="max-w-prose text-quiet">
        What a change costs the customer; from it a bike's page works out what replacing early or late costs.
      </p>
      <div className="max-w-40">
        <Line
          label="Currency"
          numeric={false}
          value={draft.currency}
          set={(currency) => change({ currency })}
          fault={fault("currency")}
        />
      </div>
      {classes.map((name, i) => (
        <fieldset key={name} className="min-w-0">
          <legend className="fieldset-legend">{classWords[name].name}</legend>
          <div className="grid grid-cols-2 gap-2 sm:grid-cols-3 lg:grid-cols-6">
            {priceNames.map((p) => (
              <Line
                key={p}
                label={priceWords[p]}
                unit={draft.currency.slice(0, 3)}
                value={draft.classes[name][p]}
                set={(v) => change(changedClass(draft, name, { [p]: v }))}
                fault={fault(`classes[${i}].${p}`)}
              />
            ))}
          </div>
        </fieldset>
      ))}
      <fieldset className="min-w-0">
        <legend className="fieldset-legend">Chains that a cassette lasts</legend>
        <div className="grid gap-2 sm:grid-cols-3 lg:max-w-2xl">
          {setNames.map((n) => (
            <Line
              key={n}
              label={setWords[n]}
              hint={`default: ${view.defaults.chains_per_set[n]}`}
              value={draft.sets[n]}
              set={(v) => change({ sets: { ...draft.sets, [n]: v } })}
              fault={fault(`chains_per_set.${n}`)}
            />
          ))}
        </div>
        {fault("chains_per_set") && (
          <p className="mt-1 text-fine font-semibold text-error">{fault("chains_per_set")}</p>
        )}
      </fieldset>
    </Section>
  );
}
