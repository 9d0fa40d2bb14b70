import { type DuePreview, idempotencyKey, type RulesView } from "../../api/client";
import { previewDueQuestion } from "../../api/queries";
import { Asked, useAnswer } from "../../ui/answer";
import { Button, Input, PressButton, Table, TextArea } from "../../ui/controls";
import { Plate } from "../../ui/Plate";
import { Tick } from "../../ui/parts";
import { amount, figure, signOf } from "../../ui/units";
import { eventName, stateWords, titleOf } from "../../words/due";
import type { PartProps } from "./classes";
import { type Draft, dueBy, type IntervalDraft, type OwnTaskDraft, type RecallDraft } from "./draft";
import { Line, SchoolChoice, Section } from "./fields";

const week = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"] as const;

/** How often the shop holds that a bike is cleaned. */
export function IntervalSchool({ draft, change }: Omit<PartProps, "fault">) {
  const iv = draft.intervals;
  return (
    <SchoolChoice
      label="How often a bike is cleaned"
      value={iv.school}
      options={{
        house: ["At intervals", "by distance and time, as the table has it"],
        keen: ["Keen", `thorough on the bike, wheels out, every ${amount("distance", 300)} of riding that wears`],
        "wipe-often": ["Wiped after each ride", "degreased each six months"],
        yearly: ["Once a year", "stripped yearly, washed when dirty"],
      }}
      choose={(school) => change({ intervals: { ...iv, school } })}
    />
  );
}

/** How often tasks fall due, and the shop's own tasks. */
export function IntervalRules({ view, draft, change: set, fault }: PartProps & { view: RulesView }) {
  const iv = draft.intervals;
  const change = (part: Partial<IntervalDraft>) => set({ intervals: { ...iv, ...part } });
  return (
    <Section title="Intervals">
      <IntervalSchool draft={draft} change={set} />
      <WouldBeDue view={view} draft={draft} />
      <div className="max-w-xs">
        <Line
          label="Done in the same visit when due within"
          unit="days"
          value={iv.look_ahead}
          set={(look_ahead) => change({ look_ahead })}
          fault={fault("intervals.look_ahead_days")}
        />
      </div>
      <Table>
        <thead>
          <tr className="text-fine text-quiet">
            <th className="py-1 font-normal">Task</th>
            <th className="font-normal">wear {signOf("distance")}</th>
            <th className="font-normal">days</th>
            <th className="font-normal max-md:hidden">due at once after</th>
          </tr>
        </thead>
        <tbody>
          {view.defaults.tasks.map((t) => {
            const own = iv.changed[t.code] ?? { km: "", days: "" };
            const put = (part: Partial<typeof own>) =>
              change({ changed: { ...iv.changed, [t.code]: { ...own, ...part } } });
            const field = (name: "km" | "days", house: number, path: string) => (
              <Input
                className="max-w-28"
                inputMode="numeric"
                maxLength={6}
                aria-label={`${titleOf(t)}, every ${name === "km" ? `wear ${signOf("distance")}` : "days"}`}
                aria-invalid={fault(path) !== undefined}
                placeholder={house > 0 ? (name === "km" ? figure("distance", house) : String(house)) : "–"}
                value={own[name]}
                onChange={(e) => put({ [name]: e.target.value })}
              />
            );
            return (
              <tr key={t.code} className="border-t border-base-300 align-middle">
                <td className="py-1.5 pr-3">
                  {titleOf(t)}
                  {!t.every_hard_km && !t.every_days && <span className="text-fine text-quiet"> by its lubricant</span>}
                </td>
                <td className="pr-2">{field("km", t.every_hard_km, `intervals.changed.${t.code}.every_hard_km`)}</td>
                <td className="pr-2">{field("days", t.every_days, `intervals.changed.${t.code}.every_days`)}</td>
                <td className="text-fine text-quiet max-md:hidden">
                  {t.after.map((e) => eventName(e).toLowerCase()).join(", ")}
                </td>
              </tr>
            );
          })}
        </tbody>
      </Table>
      <p className="text-fine text-quiet">Empty means as the shop has it; 0 means never by this.</p>
      <OwnTasks own={iv.own} set={(own) => change({ own })} fault={fault} />
    </Section>
  );
}

/** How many bikes the draft's intervals would make due today, beside how many are. */
function WouldBeDue({ view, draft }: { view: RulesView; draft: Draft }) {
  const preview = useAnswer(previewDueQuestion(dueBy(view.rules, draft)));
  return <Asked of={preview}>{(p) => <DueUnder preview={p} />}</Asked>;
}

function DueUnder({ preview: p }: { preview: DuePreview }) {
  const same = dueStates.every((s) => p.now[s] === p.would[s]);
  return (
    <section aria-label="The due list under these intervals" data-testid="would-be-due">
      <p className="text-note" aria-live="polite">
        <b>{same ? "The due list stays as it is." : "When this is saved, the due list changes today."}</b>{" "}
        <span className="text-quiet">
          {p.of === 1 ? "One bike" : `${p.of} bikes`} in care{p.of >= 2000 && ", the first by tag number"}.
        </span>
      </p>
      <ul className="mt-1 flex flex-wrap gap-x-5 gap-y-1">
        {dueStates.map((s) => (
          <li key={s} className="flex items-center gap-1.5 text-note">
            <Plate state={s} />
            {stateWords[s]}{" "}
            <span className="font-mono">
              {p.now[s]}
              {p.would[s] !== p.now[s] && <b> → {p.would[s]}</b>}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

const dueStates = ["overdue", "due", "soon", "fresh"] as const;

function OwnTasks(props: {
  own: OwnTaskDraft[];
  set: (own: OwnTaskDraft[]) => void;
  fault: (path: string) => string | undefined;
}) {
  const { own, set, fault } = props;
  const put = (i: number, part: Partial<OwnTaskDraft>) => set(own.map((t, k) => (k === i ? { ...t, ...part } : t)));
  return (
    <fieldset className="flex flex-col gap-3">
      <legend className="fieldset-legend">Tasks of the shop's own</legend>
      {own.map((t, i) => (
        <div key={t.id} className="grid grid-cols-2 items-end gap-3 md:grid-cols-[1fr_140px_140px_auto]">
          <div className="max-md:col-span-2">
            <Line
              label="What is done"
              numeric={false}
              value={t.title}
              set={(title) => put(i, { title })}
              fault={fault(`intervals.own[${i}].title`) ?? fault(`intervals.own[${i}].code`)}
            />
          </div>
          <Line
            label="Every"
            unit={`wear ${signOf("distance")}`}
            value={t.km}
            set={(km) => put(i, { km })}
            fault={fault(`intervals.own[${i}].every_hard_km`)}
          />
          <Line
            label="Every"
            unit="days"
            value={t.days}
            set={(days) => put(i, { days })}
            fault={fault(`intervals.own[${i}].every_days`)}
          />
          <Button kind="quiet" onClick={() => set(own.filter((_, k) => k !== i))}>
            Take it off
          </Button>
        </div>
      ))}
      <Button
        className="self-start"
        onClick={() =>
          set([
            ...own,
            { id: idempotencyKey(), code: "", title: "", km: "", days: "", safety: false, weight: 1, kinds: [] },
          ])
        }
      >
        Add a task
      </Button>
    </fieldset>
  );
}

/** When customers are contacted, and what is said. */
export function ContactRules({ draft, change: set, fault }: PartProps) {
  const r = draft.recalls;
  const change = (part: Partial<RecallDraft>) => set({ recalls: { ...r, ...part } });
  const at = (name: string) => fault(`recalls.${name}`);
  return (
    <Section title="Contacting customers">
      <Tick on={r.by_itself} set={(on) => change({ by_itself: on })}>
        Send drafts without a person
      </Tick>
      <div className="grid grid-cols-2 gap-3 sm:grid-cols-4">
        <Line label="From" numeric={false} value={r.from} set={(from) => change({ from })} fault={at("from")} />
        <Line label="Until" numeric={false} value={r.until} set={(until) => change({ until })} fault={at("until")} />
        <Line
          label="At most once in"
          unit="days"
          value={r.every_days}
          set={(every_days) => change({ every_days })}
          fault={at("every_days")}
        />
        <Line
          label="Closed on, as 2026-12-25"
          numeric={false}
          value={r.closed_on}
          set={(closed_on) => change({ closed_on })}
          fault={at("closed_on")}
        />
      </div>
      <fieldset className="flex flex-wrap gap-1.5">
        <legend className="fieldset-legend">Closed every</legend>
        {week.map((day) => {
          const closed = r.closed.includes(day);
          return (
            <PressButton
              key={day}
              on={closed}
              onClick={() => change({ closed: closed ? r.closed.filter((d) => d !== day) : [...r.closed, day] })}
              className="first-letter:uppercase"
            >
              {day}
            </PressButton>
          );
        })}
        {at("closed") && <p className="w-full font-semibold text-error">{at("closed")}</p>}
      </fieldset>
      <label className="flex flex-col gap-1">
        <span className="text-fine font-semibold text-quiet">What is said</span>
        <TextArea
          rows={4}
          maxLength={1000}
          name="recall_text"
          value={r.text}
          aria-invalid={at("text") !== undefined}
          onChange={(e) => change({ text: e.target.value })}
        />
        <span className={`text-fine ${at("text") ? "font-semibold text-error" : "text-quiet"}`}>
          {at("text") ??
            "{owner}, {bike}, {tag}, {why}, {leave} (what it costs to leave it), {shop} and {link} (the customer's page) are filled in."}
        </span>
      </label>
    </Section>
  );
}
