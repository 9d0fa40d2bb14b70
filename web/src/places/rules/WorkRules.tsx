import { useState } from "react";
import type { RulesView } from "../../api/client";
import { routeWords } from "../bikes/cleaning";
import { type Draft, routeNames, type WorkDraft } from "./draft";
import { Line, SchoolChoice, Section } from "./fields";

type Props = {
  view: RulesView;
  draft: Draft;
  set: (work: WorkDraft) => void;
  fault: (path: string) => string | undefined;
};

/** How the shop washes, cleans and lubricates, what it charges for it, and how long its steps take. */
export function WorkRules({ view, draft, set, fault }: Props) {
  const w = draft.work;
  const change = (part: Partial<WorkDraft>) => set({ ...w, ...part });
  const [minutes, setMinutes] = useState(false);
  const currency = draft.currency.slice(0, 3);
  return (
    <>
      <Section title="Washing, cleaning, lubricating">
        <SchoolChoice
          label="What is cleaned first"
          value={w.first}
          options={{
            "drivetrain-first": ["The drivetrain", "what splashes onto the frame is washed off after"],
            "frame-first": ["The frame", "grit gone before the drivetrain is opened"],
          }}
          choose={(first) => change({ first })}
        />
        <SchoolChoice
          label="Water under pressure"
          value={w.pressure}
          options={{
            low: ["Low, at a distance", "never at bearings, seals, motor or display"],
            never: ["Never", "bucket and hose only"],
          }}
          choose={(pressure) => change({ pressure })}
        />
        <SchoolChoice
          label="A chain is lubricated again"
          value={w.when}
          options={{
            "by-lubricant": ["By its lubricant", "each family at its own distance"],
            "little-and-often": ["Little and often", "every 50 to 65 km: touring, bikepacking"],
            "when-it-speaks": ["When it speaks", "at the first noise, 800 km at most"],
          }}
          choose={(when) => change({ when })}
        />
        <div className="flex flex-wrap gap-x-8">
          <Tick words="Humid or salty air here" on={w.damp} set={(damp) => change({ damp })} />
          <Tick words="A blower dries chains" on={w.blower} set={(blower) => change({ blower })} />
          <Tick words="Freehub bodies stay dry" on={w.freehub_dry} set={(freehub_dry) => change({ freehub_dry })} />
        </div>
        <button
          type="button"
          aria-expanded={minutes}
          className="deed-quiet -ml-4 self-start text-[14px]"
          onClick={() => setMinutes(!minutes)}
        >
          {minutes ? "Hide the minutes of each step" : "Minutes of each step"}
        </button>
        {minutes && (
          <div className="grid grid-cols-2 gap-3 sm:grid-cols-3 lg:grid-cols-5">
            {view.defaults.steps.map((s) => (
              <Line
                key={s.code}
                label={s.title}
                hint={`house: ${s.minutes}`}
                unit="min"
                value={w.minutes[s.code] ?? ""}
                set={(v) => change({ minutes: { ...w.minutes, [s.code]: v } })}
                fault={fault(`work.minutes.${s.code}`)}
              />
            ))}
          </div>
        )}
      </Section>
      <Section title="What the work costs">
        <div className="grid grid-cols-2 gap-3 sm:grid-cols-3 lg:grid-cols-5">
          <Line
            label="An hour of work"
            unit={currency}
            value={w.labour_hour}
            set={(labour_hour) => change({ labour_hour })}
            fault={fault("work.labour_hour")}
          />
          <Line
            label="Rounded up to"
            unit="min"
            value={w.labour_step}
            set={(labour_step) => change({ labour_step })}
            fault={fault("work.labour_step")}
          />
          <Line
            label="Fluids at cost, times"
            value={w.fluids_by}
            set={(fluids_by) => change({ fluids_by })}
            fault={fault("work.fluids_by")}
          />
          <Line
            label="Tax"
            unit="%"
            value={w.tax_pct}
            set={(tax_pct) => change({ tax_pct })}
            fault={fault("work.tax_pct")}
          />
          <Line
            label="Ask the owner beyond"
            unit="%"
            value={w.ask_over_pct}
            set={(ask_over_pct) => change({ ask_over_pct })}
            fault={fault("work.ask_over_pct")}
          />
        </div>
        <Tick words="The prices hold the tax already" on={w.tax_inside} set={(tax_inside) => change({ tax_inside })} />
        <fieldset className="min-w-0">
          <legend className="label-small mb-1">A fixed price for the work of a route; empty goes by the hour</legend>
          <div className="grid grid-cols-2 gap-3 sm:grid-cols-3 lg:grid-cols-6">
            {routeNames.map((r) => (
              <Line
                key={r}
                label={routeWords[r].name}
                unit={currency}
                value={w.fixed[r] ?? ""}
                set={(v) => change({ fixed: { ...w.fixed, [r]: v } })}
                fault={fault(`work.fixed_route.${r}`)}
              />
            ))}
          </div>
        </fieldset>
        <fieldset className="min-w-0">
          <legend className="label-small mb-1">Share of the waste</legend>
          <div className="grid grid-cols-2 gap-3 sm:grid-cols-3 lg:grid-cols-6">
            {routeNames.map((r) => (
              <Line
                key={r}
                label={routeWords[r].name}
                unit={currency}
                value={w.waste[r] ?? ""}
                set={(v) => change({ waste: { ...w.waste, [r]: v } })}
                fault={fault(`work.waste_route.${r}`)}
              />
            ))}
          </div>
        </fieldset>
      </Section>
    </>
  );
}

function Tick({ words, on, set }: { words: string; on: boolean; set: (on: boolean) => void }) {
  return (
    <label className="flex min-h-(--target) items-center gap-3">
      <input type="checkbox" className="size-6 accent-primary" checked={on} onChange={(e) => set(e.target.checked)} />
      <span>{words}</span>
    </label>
  );
}
