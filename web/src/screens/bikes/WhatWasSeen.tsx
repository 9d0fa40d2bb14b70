import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Bike, CleaningPlan, Job } from "../../api/client";
import { Button, Input, PressButton, TextArea } from "../../ui/controls";
import { Heading } from "../../ui/Heading";
import { Choice, Field, Tick } from "../../ui/parts";
import { ways } from "../../ui/shop";
import { Tag } from "../../ui/Tag";
import { bikeName, drivetrainLine } from "../../words/bikes";
import { coatWords, drivetrainGrades, frameGrades, rustWords } from "../../words/cleaning";
import { useJobWords } from "../jobs/JobWords";
import { type Coming, toIntake } from "./cleaning";
import { Promising } from "./Promising";

/** What the customer says and what is seen of a bike that comes in. */
export function WhatWasSeen(props: {
  bike: Bike;
  job: Job | undefined;
  seen: Coming;
  set: (part: Coming) => void;
  clear: () => void;
  plan: CleaningPlan | undefined;
  /** It was to be booked in before it was graded. */
  ungraded: boolean;
  promise: { fault: string | undefined; set: (part: Coming) => void };
  photos: ReactNode;
}) {
  const { bike, job, seen, set, plan, ungraded } = props;
  const { complaints, reports, wants, promised, waiting, guide } = seen;
  const words = useJobWords();
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
      <Choice
        label="On the chain now"
        value={(seen.lubricant_on ?? plan?.lubricant_on) as keyof typeof coatWords | undefined}
        options={entries(coatWords)}
        choose={(lubricant_on) => set({ lubricant_on })}
      />
      <Choice
        label="Lube to use"
        value={(seen.lubricant_next ?? plan?.choice.lubricant_next) as keyof typeof coatWords | undefined}
        options={entries(coatWords).slice(0, 3)}
        choose={(lubricant_next) => set({ lubricant_next })}
      />
      <Choice
        label="Rust on the chain"
        value={(seen.rust ?? "none") as keyof typeof rustWords}
        options={entries(rustWords)}
        choose={(rust) => set({ rust })}
      />
      <div className="flex flex-col">
        <Tick on={seen.has_joining_link} set={(has_joining_link) => set({ has_joining_link })}>
          A joining link is on the chain
        </Tick>
        <Tick on={guide} set={(guide) => set({ guide })}>
          A chain guide or guard
        </Tick>
        <Tick on={seen.heavy} set={(heavy) => set({ heavy })}>
          Heavier than {ways().mass === "oz" ? "44 lb" : "20 kg"}
        </Tick>
        <Tick on={seen.deep_clean_due} set={(deep_clean_due) => set({ deep_clean_due })}>
          The deep clean is past due
        </Tick>
      </div>
      <Field label="Customer asked for">
        {(a) => (
          <Input
            {...a}
            name="wants"
            maxLength={2000}
            value={wants ?? ""}
            onChange={(e) => set({ wants: e.target.value })}
          />
        )}
      </Field>
      <Promising
        tag={bike.tag}
        intake={job ? null : (intake ?? null)}
        promised={promised ?? ""}
        waiting={waiting ?? false}
        set={props.promise.set}
        fault={props.promise.fault}
      />
      {props.photos}
      <Button kind="quiet" className="-ml-4 self-start text-note" onClick={props.clear}>
        Start again
      </Button>
    </section>
  );
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
