import { useState } from "react";
import type { RulesView } from "../../api/client";
import { mixWords } from "../../words/bikes";
import { classWords } from "../../words/wear";
import { changedClass, classes, type PartProps } from "./classes";
import { factorNames } from "./draft";
import { Line, SchoolChoice, Section } from "./fields";
import { Schools } from "./Schools";

/** When a chain is worn: the school, the shop's own limits, and at how many places it is read. */
export function WearRules({ view, draft, change, fault }: PartProps & { view: RulesView }) {
  return (
    <Section title="When a chain is worn">
      <Schools view={view} draft={draft} choose={(wear_school) => change({ wear_school })} />
      <OwnLines draft={draft} change={change} fault={fault} />
      <div className="max-w-60">
        <Line
          label="Places read round a chain"
          value={draft.wear_places}
          set={(wear_places) => change({ wear_places })}
          fault={fault("wear_places")}
        />
      </div>
    </Section>
  );
}

/** Lines of the shop's own, in place of its school's. */
function OwnLines({ draft, change, fault }: PartProps) {
  const used = classes.some((c) => draft.classes[c].limit_pct || draft.classes[c].together_pct);
  const [open, setOpen] = useState(used);
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="min-h-(--target) py-2.5 font-semibold">Own wear limits</summary>
      {open && (
        <>
          <p className="mb-2 max-w-prose text-quiet">
            They go before the school's. A bike may still have its own, and a maker's stated limit wins over all.
          </p>
          <div className="flex flex-col gap-3">
            {classes.map((name, i) => (
              <fieldset key={name} className="grid gap-2 sm:grid-cols-[170px_170px_minmax(0,1fr)]">
                <legend className="fieldset-legend">{classWords[name].name}</legend>
                <Line
                  label="Replace at"
                  unit="%"
                  value={draft.classes[name].limit_pct}
                  set={(limit_pct) => change(changedClass(draft, name, { limit_pct }))}
                  fault={fault(`classes[${i}].limit_pct`)}
                />
                <Line
                  label="Cassette too past"
                  unit="%"
                  value={draft.classes[name].together_pct}
                  set={(together_pct) => change(changedClass(draft, name, { together_pct }))}
                  fault={fault(`classes[${i}].together_pct`)}
                />
                <Line
                  label="Why"
                  numeric={false}
                  value={draft.classes[name].limit_reason}
                  set={(limit_reason) => change(changedClass(draft, name, { limit_reason }))}
                  fault={fault(`classes[${i}].limit_reason`)}
                />
              </fieldset>
            ))}
          </div>
        </>
      )}
    </details>
  );
}

/** How a chain is replaced: its length, what goes with it, what closes it, its grease. */
export function ReplacingRules({ draft, change }: Omit<PartProps, "fault">) {
  return (
    <Section title="Replacing a chain">
      <SchoolChoice
        label="How long a chain is"
        value={draft.length_method}
        options={{
          wrap: ["Wrapped largest to largest, and an overlap", "the bench method"],
          formula: ["By the workshop's formula", "in inches; the added inch is in it"],
          "old-chain": ["As many links as the old one", "right only if it was right and the gears are the same"],
        }}
        choose={(length_method) => change({ length_method })}
      />
      <CassetteSchool draft={draft} change={change} />
      <SchoolChoice
        label="A joining link that was opened"
        value={draft.link_school}
        options={{
          "new-each-time": ["A new one each time", "the default"],
          "inspect-and-reuse": [
            "Looked at and used again",
            "as often as its maker states, while its seat shows no wear",
          ],
        }}
        choose={(link_school) => change({ link_school })}
      />
      <SchoolChoice
        label="The grease of a new chain"
        value={draft.grease_school}
        options={{
          "by-lubricant": ["Kept for oil, stripped for wax", "as it will be lubricated"],
          "keep-inside": ["Kept inside, the outside cleaned", "stripped all the same before wax"],
          "strip-all": ["Stripped always", ""],
        }}
        choose={(grease_school) => change({ grease_school })}
      />
    </Section>
  );
}

/** Whether the cassette goes with the chain. */
export function CassetteSchool({ draft, change }: Omit<PartProps, "fault">) {
  return (
    <SchoolChoice
      label="Cassette, when the chain is at its limit"
      value={draft.sprocket_school}
      options={{
        "test-first": ["Ride-test it first", "it stays if nothing skips under load"],
        "together-at-limit": ["Always with the chain", "as a pair"],
      }}
      choose={(sprocket_school) => change({ sprocket_school })}
    />
  );
}

/** By how much a harder kilometre counts for more. */
export function WearKilometre({ view, draft, change, fault }: PartProps & { view: RulesView }) {
  return (
    <Section title="What a wear kilometre is">
      <p className="max-w-prose text-quiet">
        A kilometre counts for more when it is harder on the chain. Wear and intervals go by these.
      </p>
      <div className="grid grid-cols-2 gap-3 sm:grid-cols-3 lg:grid-cols-6">
        {factorNames.map((n) => (
          <Line
            key={n}
            label={n === "mid_motor" ? "mid motor, times" : mixWords[n]}
            hint={`default: ${view.defaults.factors[n]}`}
            value={draft.factors[n]}
            set={(v) => change({ factors: { ...draft.factors, [n]: v } })}
            fault={fault(`factors.${n}`)}
          />
        ))}
      </div>
    </Section>
  );
}
