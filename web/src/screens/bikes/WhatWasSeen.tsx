import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Bike, CleaningPlan, Job, LubeFamily } from "../../api/client";
import { materialsOptions } from "../../api/queries";
import type { Answered } from "../../ui/answer";
import { Button, Input, PressButton, Select, TextArea } from "../../ui/controls";
import { Heading } from "../../ui/Heading";
import { Choice, Field, Tick } from "../../ui/parts";
import { ways } from "../../ui/shop";
import { Tag } from "../../ui/Tag";
import { bikeName, drivetrainLine } from "../../words/bikes";
import { coatWords, drivetrainGrades, frameGrades, routeWords, rustWords } from "../../words/cleaning";
import { familyWords } from "../../words/work";
import { useJobWords } from "../jobs/JobWords";
import { type Coming, toIntake } from "./cleaning";
import { ExpressOffers } from "./ExpressOffers";
import { Promising } from "./Promising";
import { WantedBy } from "./WantedBy";

/** What the customer says and what is seen of a bike that comes in. */
export function WhatWasSeen(props: {
  bike: Bike;
  job: Job | undefined;
  seen: Coming;
  set: (part: Coming) => void;
  clear: () => void;
  plan: Answered<CleaningPlan>;
  /** It was to be booked in before it was graded. */
  ungraded: boolean;
  promise: { fault: string | undefined; set: (part: Coming) => void };
  photos: ReactNode;
}) {
  const { bike, job, seen, set, plan, ungraded } = props;
  const { promised, waiting, express } = seen;
  const intake = toIntake(seen);
  return (
    <section
      className="card card-border bg-base-100 flex flex-col gap-4 self-start p-4 min-[700px]:row-span-2"
      aria-label="What was seen"
    >
      <div className="flex flex-col items-start gap-2">
        <Link
          to={`/bikes/${bike.tag}`}
          className="inline-flex min-h-(--target) items-center"
          aria-label={`Open the bike of tag ${bike.tag}`}
        >
          <Tag tag={bike.tag} />
        </Link>
        <Heading className="text-xl break-words">{bikeName(bike.facts)} came in</Heading>
        <p className="text-note text-quiet">{drivetrainLine(bike.facts)}</p>
      </div>
      <Tick on={express} set={(express) => set({ express })}>
        Express, at the counter
      </Tick>
      {!express && <Says seen={seen} set={set} />}
      <Grades
        label="Drivetrain"
        telltales={drivetrainGrades}
        value={seen.drivetrain_grade}
        choose={(drivetrain_grade) => set({ drivetrain_grade })}
        asked={ungraded}
      />
      <Grades
        label="Frame"
        telltales={frameGrades}
        value={seen.frame_grade}
        choose={(frame_grade) => set({ frame_grade })}
        asked={ungraded}
      />
      {express ? <ExpressOffers of={plan} /> : <Looked seen={seen} set={set} plan={plan.answer} />}
      <Promising
        tag={bike.tag}
        intake={job ? null : (intake ?? null)}
        promised={promised ?? ""}
        waiting={waiting ?? false}
        set={props.promise.set}
        fault={props.promise.fault}
      />
      {seen.route && (
        <p className="text-note" data-testid="promised-route">
          Promised: <b>{routeWords[seen.route as keyof typeof routeWords]?.name ?? seen.route}</b>.{" "}
          <Button kind="quiet" className="px-1" onClick={() => set({ route: "" })}>
            Leave it open
          </Button>
        </p>
      )}
      {!job && <WantedBy tag={bike.tag} intake={intake ?? null} promise={props.promise.set} />}
      {props.photos}
      {express && (
        <details>
          <summary className="min-h-(--target) cursor-pointer content-center font-semibold">
            What else was seen and said
          </summary>
          <div className="flex flex-col gap-4 pt-2">
            <Says seen={seen} set={set} />
            <Looked seen={seen} set={set} plan={plan.answer} />
          </div>
        </details>
      )}
      <Button kind="quiet" className="-ml-4 self-start text-note" onClick={props.clear}>
        Start again
      </Button>
    </section>
  );
}

type Part = { seen: Coming; set: (part: Coming) => void };

/** What the customer says of it. */
function Says({ seen: { complaints, reports }, set }: Part) {
  const words = useJobWords();
  return (
    <>
      <fieldset className="min-w-0">
        <legend className="fieldset-legend">The customer says</legend>
        <div className="flex flex-wrap gap-1.5">
          {words.complaints.map((c) => {
            const on = complaints?.includes(c.code) ?? false;
            return (
              <PressButton
                key={c.code}
                on={on}
                onClick={() =>
                  set({
                    complaints: on ? (complaints ?? []).filter((x) => x !== c.code) : [...(complaints ?? []), c.code],
                  })
                }
              >
                {c.says}
              </PressButton>
            );
          })}
        </div>
      </fieldset>
      <Field label="In the customer's words">
        {(a) => (
          <TextArea
            {...a}
            name="reports"
            rows={2}
            maxLength={2000}
            value={reports ?? ""}
            onChange={(e) => set({ reports: e.target.value })}
          />
        )}
      </Field>
    </>
  );
}

/** What is looked at beyond the two grades; at the counter only where something speaks for it. */
function Looked({ seen, set, plan }: Part & { plan: CleaningPlan | undefined }) {
  return (
    <>
      <ChainSeen seen={seen} set={set} plan={plan} />
      <div className="flex flex-col">
        <Tick on={seen.guide} set={(guide) => set({ guide })}>
          A chain guide or guard
        </Tick>
        <Tick on={seen.heavy} set={(heavy) => set({ heavy })}>
          Heavier than {ways().mass === "oz" ? "44 lb" : "20 kg"}
        </Tick>
        <Tick on={seen.deep_clean_due} set={(deep_clean_due) => set({ deep_clean_due })}>
          The deep clean is past due
        </Tick>
        <Tick on={seen.seals_sound} set={(seals_sound) => set({ seals_sound })}>
          Seals of hubs and suspension are sound
        </Tick>
        <Tick on={seen.drivetrain_only} set={(drivetrain_only) => set({ drivetrain_only })}>
          Drivetrain only, no wash
        </Tick>
      </div>
      <Field label="Customer asked for">
        {(a) => (
          <Input
            {...a}
            name="wants"
            maxLength={2000}
            value={seen.wants ?? ""}
            onChange={(e) => set({ wants: e.target.value })}
          />
        )}
      </Field>
    </>
  );
}

/** What is on the chain, what goes on it, and its rust. */
function ChainSeen(props: Part & { plan: CleaningPlan | undefined }) {
  const { seen, set, plan } = props;
  const on = (seen.lubricant_on ?? plan?.lubricant_on) as keyof typeof coatWords | undefined;
  const next = seen.lubricant ?? plan?.lubricant;
  const bottles = useBottles(next);
  const late = new Set(
    plan?.lubricants?.choices.filter((c) => c.against.includes("not-dry-in-time")).map((c) => c.family),
  );
  return (
    <>
      {seen.drivetrain_grade === 4 && (
        <Choice
          label="Dirt behind the crank?"
          value={seen.behind_crank === undefined ? undefined : seen.behind_crank ? "yes" : "no"}
          options={[
            { value: "yes", words: "Yes" },
            { value: "no", words: "No: the crank can stay" },
          ]}
          choose={(v) => set({ behind_crank: v === "yes" })}
        />
      )}
      <Choice
        label="On the chain now"
        value={on}
        options={entries(coatWords)}
        choose={(lubricant_on) => set({ lubricant_on })}
      />
      {on === "immersion-wax" && (
        <Tick on={seen.oil_on} set={(oil_on) => set({ oil_on })}>
          Oil or grease got onto the wax
        </Tick>
      )}
      <Choice
        label="Lube to use"
        value={next}
        options={families.map((value) => ({
          value,
          words: late.has(value) ? `${familyWords[value]} (not in time)` : familyWords[value],
        }))}
        choose={(lubricant) => set({ lubricant, ...(seen.bottle_id ? { bottle_id: "" } : {}) })}
      />
      {bottles.length > 1 && (
        <Field label="Which bottle">
          {(a) => (
            <Select
              {...a}
              name="bottle"
              value={seen.bottle_id ?? bottles[0]?.id}
              onChange={(e) => set({ bottle_id: e.target.value })}
            >
              {bottles.map((b) => (
                <option key={b.id} value={b.id}>
                  {b.facts.name}
                  {b.facts.place && `, ${b.facts.place}`}
                </option>
              ))}
            </Select>
          )}
        </Field>
      )}
      <Choice
        label="Rust on the chain"
        value={(seen.rust ?? "none") as keyof typeof rustWords}
        options={entries(rustWords)}
        choose={(rust) => set({ rust })}
      />
      <Tick on={seen.has_joining_link} set={(has_joining_link) => set({ has_joining_link })}>
        A joining link is on the chain
      </Tick>
    </>
  );
}

const families = ["wet-oil", "dry-oil", "all-weather", "drip-wax", "immersion-wax"] as const;

/** The bottles of a lubricant that stand on the shelf. */
function useBottles(family: LubeFamily | undefined) {
  const materials = useQuery(materialsOptions).data ?? [];
  const kind = family === "drip-wax" || family === "immersion-wax" ? family : "oil";
  return family ? materials.filter((m) => m.kind === kind && (!m.facts.family || m.facts.family === family)) : [];
}

function entries<T extends string>(words: Record<T, string>) {
  return (Object.keys(words) as T[]).map((value) => ({ value, words: words[value] }));
}

function Grades(props: {
  label: string;
  telltales: readonly string[];
  value: number | undefined;
  choose: (grade: number) => void;
  /** It was to be booked in without it. */
  asked: boolean;
}) {
  const missing = props.value === undefined;
  return (
    <fieldset className="min-w-0" data-ungraded={missing ? "" : undefined}>
      <legend className="fieldset-legend">{props.label}</legend>
      {missing && props.asked && (
        <p role="alert" className="mb-1 text-fine font-semibold text-error">
          Choose what fits best: the routes follow from it.
        </p>
      )}
      <div className="flex flex-col">
        {props.telltales.map((words, grade) => (
          <PressButton
            key={words}
            on={grade === props.value}
            onClick={() => props.choose(grade)}
            className="join-item justify-start gap-3 text-left font-normal"
          >
            <span className="font-mono font-semibold">{grade}</span>
            <span className="min-w-0">{words}</span>
          </PressButton>
        ))}
      </div>
    </fieldset>
  );
}
