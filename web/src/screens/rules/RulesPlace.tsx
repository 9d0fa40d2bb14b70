import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type DrivetrainClass, type Rules, type RulesView } from "../../api/client";
import { rulesOptions } from "../../api/queries";
import { Conflict, versionsOf } from "../../ui/Conflict";
import { Button, Key } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { dayAndTime } from "../../ui/format";
import { useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { forget } from "../../ui/kept";
import { Failure } from "../../ui/parts";
import { faultUnder, useWrite } from "../../ui/sending";
import { mixWords } from "../../words/bikes";
import { classWords } from "../../words/wear";
import { type Draft, factorNames, fromDraft, isDraft, priceNames, setNames, toDraft } from "./draft";
import { FloorRules } from "./FloorRules";
import { Line, SchoolChoice, Section } from "./fields";
import { IntervalRules } from "./IntervalRules";
import { RulesHead } from "./RulesHead";
import { Schools } from "./Schools";
import { WhereRules } from "./WhereRules";
import { WorkRules } from "./WorkRules";

/** How the shop does things: when a chain is worn, what a hard kilometre is, what parts cost. */
export function RulesPlace() {
  const rules = useQuery(rulesOptions);
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Settings</Heading>
      <RulesHead />
      <Fetched query={rules} what="the settings">
        {(view) => <RulesForm view={view} />}
      </Fetched>
    </div>
  );
}

const slot = "pony.draft.rules";

const rulesOf = (was: Rules) =>
  field.together((draft: Draft) => {
    const { rules, faults } = fromDraft(draft, was);
    return { is: rules, faults };
  });

function RulesForm({ view }: { view: RulesView }) {
  const { person } = useSession();
  const may = person.role === "owner" || person.role === "mechanic";
  const send = useWrite(
    (body: { version: number; rules: Rules }) => ask(api.PUT("/rules", { body })),
    [{ topic: "rules" }],
  );
  const start = toDraft(view.rules);
  const form = useForm({ start, reads: rulesOf(view.rules), by: send, version: view.version, slot, fits: isDraft });
  // Rules that nobody changed here follow what is saved elsewhere.
  const dirty = !same(form.typed, start);
  const draft = dirty ? form.typed : start;
  const version = dirty ? form.version : view.version;
  const change = (part: Partial<Draft>) => (dirty ? form.set(part) : form.restart({ ...start, ...part }, version));
  const fault = (path: string) => form.fault(`rules.${path}`);
  const save = (over: number) =>
    form.submit((rules) =>
      send.mutate(
        { version: over, rules },
        {
          done: (now) => {
            // What was changed while the answer was under way is kept, and saved next time.
            form.saved((at) => (same(at, draft) ? toDraft(now.rules) : at), now.version);
            forget(slot);
          },
        },
      ),
    );
  const versions = versionsOf(send.error);
  const theirs = versions?.theirs as RulesView | undefined;

  return (
    <form
      className="flex flex-col gap-3"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        if (!send.isPending) save(version);
      }}
    >
      {!may && (
        <p role="status" className="card card-border bg-base-100 border-l-4 border-l-warning px-4 py-2">
          A mechanic or the shop's owner sets these. You can read them.
        </p>
      )}
      {versions && theirs && (
        <Conflict
          yours={versions.yours as Record<string, unknown>}
          theirs={theirs.rules}
          keepMine={() => {
            form.over(theirs.version);
            save(theirs.version);
          }}
          takeTheirs={() => {
            form.restart(toDraft(theirs.rules), theirs.version);
            send.reset();
          }}
        />
      )}
      <fieldset disabled={!may} className="flex min-w-0 flex-col gap-3">
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
          <SchoolChoice
            label="Cassette, when the chain is at its limit"
            value={draft.sprocket_school}
            options={{
              "test-first": ["Ride-test them first", "they stay if nothing skips under load"],
              "together-at-limit": ["Always with the chain", "as a pair"],
            }}
            choose={(sprocket_school) => change({ sprocket_school })}
          />
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
        <IntervalRules view={view} draft={draft} set={change} fault={fault} />
        <FloorRules
          view={view}
          draft={draft}
          set={change}
          fault={(path) => fault(path) ?? faultUnder(send.error, `rules.${path}`)}
        />
        <WorkRules view={view} draft={draft} set={(work) => change({ work })} fault={fault} />
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
        <Prices view={view} draft={draft} change={change} fault={fault} />
        <WhereRules draft={draft} set={change} fault={fault} />
        <Section title="Devices">
          <div className="flex flex-wrap gap-x-8 gap-y-3">
            <div className="w-60">
              <Line
                label="Signed out after"
                unit="min"
                value={draft.session_idle_minutes}
                set={(session_idle_minutes) => change({ session_idle_minutes })}
                fault={fault("session_idle_minutes")}
              />
            </div>
          </div>
        </Section>
      </fieldset>
      {send.isError && !versions && <Failure error={send.error} />}
      {form.isWrong && (
        <p role="alert" className="font-semibold text-error">
          Some fields are not right yet: see above.
        </p>
      )}
      {may && (
        <div className="sticky bottom-0 flex flex-wrap items-center gap-3 border-t border-base-300 bg-base-200 py-3">
          <Button type="submit" kind="main" disabled={send.isPending || !dirty}>
            Save the rules <Key>Enter</Key>
          </Button>
          {dirty && !send.isPending && (
            <Button
              kind="quiet"
              onClick={() => {
                form.restart(start, view.version);
                send.reset();
              }}
            >
              Leave as they were
            </Button>
          )}
          <span className="text-fine text-quiet">
            {view.changed_at
              ? `Last changed ${dayAndTime(view.changed_at)} by ${view.changed_by}`
              : "As every shop begins"}
          </span>
        </div>
      )}
    </form>
  );
}

const same = (a: Draft, b: Draft) => JSON.stringify(a) === JSON.stringify(b);

type PartProps = { draft: Draft; change: (part: Partial<Draft>) => void; fault: (path: string) => string | undefined };

const classes = Object.keys(classWords) as DrivetrainClass[];

const changedClass = (draft: Draft, name: DrivetrainClass, part: Partial<Draft["classes"][DrivetrainClass]>) => ({
  classes: { ...draft.classes, [name]: { ...draft.classes[name], ...part } },
});

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

const priceWords: Record<(typeof priceNames)[number], string> = {
  chain: "Chain",
  sprockets: "Cassette",
  rings: "Chainrings",
  labour_chain: "Chain, work",
  labour_sprockets: "Cassette, work",
  labour_rings: "Chainrings, work",
};

const setWords: Record<(typeof setNames)[number], string> = {
  half: "changed at 0.5 %",
  three_quarter: "changed at 0.75 %",
  one: "changed at 1 % or later",
};

/** What parts and the work on them cost, and how many chains a set of sprockets sees. */
function Prices({ view, draft, change, fault }: PartProps & { view: RulesView }) {
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
