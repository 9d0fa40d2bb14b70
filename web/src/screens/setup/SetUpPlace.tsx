import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Navigate, NavLink, useNavigate, useParams } from "react-router";
import { api, ask, type Instrument, type InstrumentFacts, type RulesView, type SetUpStep } from "../../api/client";
import { instrumentsOptions, rulesOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Key } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { useMay, useSession, useWhyNot } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Empty, Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { kindLong } from "../../words/tools";
import { HandsThere, OpenHours, PlacesThere } from "../rules/FloorRules";
import { Section } from "../rules/fields";
import { IntervalSchool } from "../rules/IntervalRules";
import { People } from "../rules/PeoplePlace";
import { Prices } from "../rules/Prices";
import type { PartIs } from "../rules/parts";
import { NotSaved, useRulesForm } from "../rules/RulesPlace";
import { Schools } from "../rules/Schools";
import { CassetteSchool } from "../rules/WearRules";
import { FirstWorkSchools, WorkPrices } from "../rules/WorkRules";

type Step = { name: string; says: string } & ({ rules: (p: PartIs) => ReactNode } | { alone: () => ReactNode });

const steps: Record<SetUpStep, Step> = {
  schools: {
    name: "How you work",
    says: "Five questions on which experienced mechanics differ. Each says what it means; all can be changed later.",
    rules: (p) => (
      <>
        <Section title="When a chain is worn">
          <Schools view={p.view} draft={p.draft} choose={(wear_school) => p.change({ wear_school })} />
        </Section>
        <Section title="With the chain, and after it">
          <CassetteSchool {...p} />
          <IntervalSchool {...p} />
          <FirstWorkSchools {...p} />
        </Section>
      </>
    ),
  },
  people: {
    name: "People",
    says: "Who works here. Each signs in by name and PIN, so that the history says who did what.",
    alone: () => <People />,
  },
  hours: {
    name: "Hours",
    says: "When the shop is open, and who does what. The day plan and every promise go by it.",
    rules: (p) => (
      <Section title="Hours and skills">
        <OpenHours {...p} />
        <HandsThere {...p} />
      </Section>
    ),
  },
  places: {
    name: "Places",
    says: "How many stands, tubs and racks there are: no more work is planned than has a place.",
    rules: (p) => (
      <Section title="Places">
        <PlacesThere {...p} />
      </Section>
    ),
  },
  tools: {
    name: "Tools",
    says: "What the shop measures chains with. A steel ruler is enough to begin.",
    alone: () => <FirstTools />,
  },
  prices: {
    name: "Prices",
    says: "A plausible start, for you to correct: these are nobody's prices but yours.",
    rules: (p) => (
      <>
        <WorkPrices {...p} />
        <Prices {...p} />
      </>
    ),
  },
};

const order = Object.keys(steps) as SetUpStep[];

/** The set-up of a new shop, step by step: it can be left at any, and gone on with. */
export function SetUpPlace() {
  const { step } = useParams();
  const left = useSession().shop.setting_up ?? [];
  const may = useMay("goThroughSetUp");
  const why = useWhyNot("goThroughSetUp");
  if (step === undefined) return <Navigate to={`/set-up/${order.find((s) => left.includes(s)) ?? "done"}`} replace />;
  if (!may) return <Empty title={why ?? ""} />;
  if (step === "done") return <Done left={left} />;
  if (!(step in steps)) return <Empty title="There is no such step." />;
  const is = steps[step as SetUpStep];
  return (
    <div className="mx-auto flex max-w-5xl flex-col gap-4 p-3 sm:p-4">
      <Heading className="text-xl">Setting up the shop: {is.name.toLowerCase()}</Heading>
      <StepsLine left={left} at={step as SetUpStep} />
      <p className="max-w-prose text-quiet">{is.says}</p>
      {"rules" in is ? (
        <OfRules key={step} step={step as SetUpStep} show={is.rules} />
      ) : (
        <>
          {is.alone()}
          <Onward step={step as SetUpStep} />
        </>
      )}
    </div>
  );
}

function StepsLine({ left, at }: { left: SetUpStep[]; at: SetUpStep }) {
  return (
    <nav aria-label="Steps of the set-up">
      <p className="font-semibold sm:hidden">
        Step {order.indexOf(at) + 1} of {order.length}
      </p>
      <ol className="steps w-full max-sm:hidden">
        {order.map((s) => (
          <li key={s} className={`step ${left.includes(s) ? "" : "step-primary"}`}>
            <NavLink
              to={`/set-up/${s}`}
              className={({ isActive }) =>
                `btn btn-ghost btn-sm min-h-(--target) ${isActive ? "font-bold underline" : "font-normal"}`
              }
            >
              {steps[s].name}
              {!left.includes(s) && <span className="sr-only">, done</span>}
            </NavLink>
          </li>
        ))}
      </ol>
    </nav>
  );
}

/** Where to go after a step: the next that is left, whatever its place. */
function useGoOn(step: SetUpStep) {
  const navigate = useNavigate();
  return (left: SetUpStep[]) => {
    const at = order.indexOf(step);
    const next = [...order.slice(at + 1), ...order.slice(0, at)].find((s) => left.includes(s));
    navigate(`/set-up/${next ?? "done"}`);
  };
}

function useDone(step: SetUpStep) {
  const goOn = useGoOn(step);
  return useWrite(
    (_: undefined, key) =>
      ask(api.PUT("/settings/set-up/{step}", { params: { path: { step }, header: { "Idempotency-Key": key } } })),
    [{ topic: "rules" }],
    ({ left }: { left: SetUpStep[] }) => goOn(left),
  );
}

function OfRules({ step, show }: { step: SetUpStep; show: (p: PartIs) => ReactNode }) {
  const rules = useQuery(rulesOptions);
  return (
    <Fetched query={rules} what="the settings">
      {(view) => <RulesStep step={step} view={view} show={show} />}
    </Fetched>
  );
}

function RulesStep({ step, view, show }: { step: SetUpStep; view: RulesView; show: (p: PartIs) => ReactNode }) {
  const form = useRulesForm(view);
  const done = useDone(step);
  return (
    <form
      className="flex flex-col gap-4"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        if (!form.pending && !done.isPending) form.save(() => done.mutate(undefined));
      }}
    >
      {show({ view, draft: form.draft, change: form.change, fault: form.fault })}
      <NotSaved form={form} />
      {form.isWrong && (
        <p role="alert" className="font-semibold text-error">
          Some fields are not right yet.
        </p>
      )}
      {done.isError && <Failure error={done.error} />}
      <div className="flex flex-wrap gap-3">
        <Button type="submit" kind="main" disabled={form.pending || done.isPending}>
          {form.dirty ? "Save and continue" : "Continue"} <Key>Enter</Key>
        </Button>
        <Later step={step} />
      </div>
    </form>
  );
}

function Onward({ step }: { step: SetUpStep }) {
  const done = useDone(step);
  return (
    <>
      {done.isError && <Failure error={done.error} />}
      <div className="flex flex-wrap gap-3">
        <Button kind="main" disabled={done.isPending} onClick={() => done.mutate(undefined)}>
          Continue
        </Button>
        <Later step={step} />
      </div>
    </>
  );
}

function Later({ step }: { step: SetUpStep }) {
  const left = useSession().shop.setting_up ?? [];
  const goOn = useGoOn(step);
  if (!left.includes(step)) return null;
  return (
    <Button kind="quiet" onClick={() => goOn(left.filter((s) => s !== step))}>
      Leave it for later
    </Button>
  );
}

/** One of each kind of tool, to be added by a press. */
const usual: { kind: Instrument["kind"]; facts: InstrumentFacts }[] = [
  { kind: "ruler", facts: { name: "Steel ruler", spreads: false } },
  { kind: "caliper-inside", facts: { name: "Caliper", spreads: true } },
  { kind: "gauge-percent", facts: { name: "Percent gauge", spreads: true } },
  { kind: "gauge-dropin", facts: { name: "Drop-in gauge", spreads: true, marks_pct: [0.5, 0.75, 1] } },
  { kind: "whole-chain", facts: { name: "Whole chain", spreads: false } },
  { kind: "pull-off", facts: { name: "Pull-off look", spreads: false } },
];

function FirstTools() {
  const tools = useQuery(instrumentsOptions);
  const add = useWrite(
    (body: (typeof usual)[number], key) =>
      ask(api.POST("/instruments", { params: { header: { "Idempotency-Key": key } }, body })),
    [{ topic: "instruments" }],
  );
  return (
    <Fetched query={tools} what="the tools">
      {(list) => (
        <section className="card card-border bg-base-100" aria-label="Measuring tools">
          <ul>
            {usual.map((u) => {
              const here = list.filter((t) => t.kind === u.kind);
              return (
                <li
                  key={u.kind}
                  className="flex flex-wrap items-center justify-between gap-3 border-t border-base-300 px-4 py-2 first:border-t-0"
                >
                  <span className="min-w-0">
                    <span className="block font-semibold">{kindLong[u.kind]}</span>
                    <span className="block text-note text-quiet break-words">
                      {here.length > 0 ? `In use: ${here.map((t) => t.name).join(", ")}` : "None here"}
                    </span>
                  </span>
                  {here.length === 0 && (
                    <Button
                      aria-label={`We have one: ${kindLong[u.kind]}`}
                      disabled={add.isPending}
                      onClick={() => add.mutate(u)}
                    >
                      We have one
                    </Button>
                  )}
                </li>
              );
            })}
          </ul>
          {add.isError && (
            <div className="p-3">
              <Failure error={add.error} />
            </div>
          )}
          <p className="border-t border-base-300 px-4 py-3 text-note text-quiet">
            Names, marks and more of them: under Settings, Measuring tools. Check each one's zero on a new chain first.
          </p>
        </section>
      )}
    </Fetched>
  );
}

function Done({ left }: { left: SetUpStep[] }) {
  return (
    <div className="mx-auto flex max-w-3xl flex-col gap-4 p-3 sm:p-4">
      <Heading className="text-xl">{left.length === 0 ? "The shop is set up" : "The shop can work"}</Heading>
      {left.length > 0 && (
        <p>
          Left for later:{" "}
          {left.map((s, i) => (
            <span key={s}>
              {i > 0 && ", "}
              <NavLink className="link" to={`/set-up/${s}`}>
                {steps[s].name.toLowerCase()}
              </NavLink>
            </span>
          ))}
          . Today reminds you.
        </p>
      )}
      <Section title="Now the first bike">
        <p>Give a bike its tag, measure its chain, book it in. Everything else follows from that.</p>
        <div className="flex flex-wrap gap-3">
          <ButtonLink to="/bikes/new" kind="main">
            Add the first bike
          </ButtonLink>
          <ButtonLink to="/today">To today</ButtonLink>
        </div>
      </Section>
      <p className="text-note text-quiet">
        Everything set here stands under Settings. Keep backups: <code className="font-mono">pony backup FILE</code>{" "}
        writes the whole shop into one file.
      </p>
    </div>
  );
}
