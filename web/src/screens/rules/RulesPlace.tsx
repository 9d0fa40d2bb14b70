import { useQuery } from "@tanstack/react-query";
import { api, ask, type Rules, type RulesView } from "../../api/client";
import { rulesOptions } from "../../api/queries";
import { Conflict, versionsOf } from "../../ui/Conflict";
import { Button, Key } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { dayAndTime } from "../../ui/format";
import { useMay, useSession, useWhyNot } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { forget } from "../../ui/kept";
import { Failure } from "../../ui/parts";
import { faultUnder, useWrite } from "../../ui/sending";
import type { PartProps } from "./classes";
import { type Draft, fromDraft, isDraft, toDraft } from "./draft";
import { FloorRules } from "./FloorRules";
import { Line, Section } from "./fields";
import { IntervalRules } from "./IntervalRules";
import { Prices } from "./Prices";
import { RulesHead } from "./RulesHead";
import { Ways } from "./Ways";
import { ReplacingRules, WearKilometre, WearRules } from "./WearRules";
import { WhereRules } from "./WhereRules";
import { StepMinutes, WorkRules } from "./WorkRules";

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
      <Ways />
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
  const may = useMay("changeRules");
  const all = useSession().has.includes("settings"); // else the minutes of steps alone
  const why = useWhyNot("changeRules");
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
      {!all && (
        <p role="status" className="card card-border bg-base-100 border-l-4 border-l-warning px-4 py-2">
          {may
            ? "The shop's owner sets these. How many minutes steps take is yours to set, too; the rest you can read."
            : `${why} You can read them.`}
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
      {may && !all && (
        <Section title="Minutes">
          <StepMinutes
            steps={view.defaults.steps}
            w={draft.work}
            change={(part) => change({ work: { ...draft.work, ...part } })}
            fault={fault}
          />
        </Section>
      )}
      <fieldset disabled={!all} className="flex min-w-0 flex-col gap-3">
        <WearRules view={view} draft={draft} change={change} fault={fault} />
        <ReplacingRules draft={draft} change={change} />
        <IntervalRules view={view} draft={draft} set={change} fault={fault} />
        <FloorRules
          view={view}
          draft={draft}
          set={change}
          fault={(path) => fault(path) ?? faultUnder(send.error, `rules.${path}`)}
        />
        <WorkRules view={view} draft={draft} set={(work) => change({ work })} fault={fault} />
        <WearKilometre view={view} draft={draft} change={change} fault={fault} />
        <Prices view={view} draft={draft} change={change} fault={fault} />
        <WhereRules draft={draft} set={change} fault={fault} />
        <Devices draft={draft} change={change} fault={fault} />
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

function Devices({ draft, change, fault }: PartProps) {
  return (
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
  );
}
