import type { RulesView } from "../../api/client";
import { Tick } from "../../ui/parts";
import { amount, range } from "../../ui/units";
import { routeWords } from "../../words/cleaning";
import { workQuestions } from "../../words/settings";
import type { PartProps } from "./classes";
import { routeNames, type WorkDraft } from "./draft";
import { Line, SchoolChoice, Section } from "./fields";
import { Learned } from "./Learned";

type Change = (part: Partial<WorkDraft>) => void;
type WorkProps = { w: WorkDraft; change: Change };

/** How a part of the work is changed in the draft of all settings. */
const changing = ({ draft, change }: Pick<PartProps, "draft" | "change">): WorkProps => ({
  w: draft.work,
  change: (part) => change({ work: { ...draft.work, ...part } }),
});

/** How the shop washes, cleans and lubricates. */
export function CleaningRules(p: Pick<PartProps, "draft" | "change">) {
  const { w, change } = changing(p);
  return (
    <Section title="Washing, cleaning, lubricating">
      <CleaningSchools w={w} change={change} />
      <OilSchools w={w} change={change} />
      <div className="flex flex-wrap gap-x-8">
        <Tick on={w.parts_washer} set={(parts_washer) => change({ parts_washer })}>
          {workQuestions.parts_washer}
        </Tick>
        <Tick on={w.wheel_in} set={(wheel_in) => change({ wheel_in })}>
          {workQuestions.wheel_in}
        </Tick>
        <Tick on={w.damp} set={(damp) => change({ damp })}>
          {workQuestions.damp}
        </Tick>
        <Tick on={w.blower} set={(blower) => change({ blower })}>
          {workQuestions.blower}
        </Tick>
        <Tick on={w.freehub_dry} set={(freehub_dry) => change({ freehub_dry })}>
          {workQuestions.freehub_dry}
        </Tick>
      </div>
    </Section>
  );
}

/** What is cleaned first, how far it is taken apart, and with what. */
function CleaningSchools({ w, change }: WorkProps) {
  return (
    <>
      <SchoolChoice
        label={workQuestions.first}
        value={w.first}
        options={{
          "drivetrain-first": ["The drivetrain", "what splashes onto the frame is washed off after"],
          "frame-first": ["The frame", "grit gone before the drivetrain is opened"],
        }}
        choose={(first) => change({ first })}
      />
      <Pressure w={w} change={change} />
      <SchoolChoice
        label={workQuestions.strip}
        value={w.strip}
        options={{
          "by-grade": ["By grade and interval", "off the bike where it takes that"],
          "on-bike": ["Always on the bike", "a bath is the most; wax and film still come off"],
        }}
        choose={(strip) => change({ strip })}
      />
      <SchoolChoice
        label={workQuestions.wash_product}
        value={w.wash_product}
        options={{
          shampoo: ["Bike or car shampoo", "leaves paint and grease alone"],
          "dish-soap": ["Dish soap", "a degreaser: carries salt, dulls paint in time"],
        }}
        choose={(wash_product) => change({ wash_product })}
      />
      <SchoolChoice
        label={workQuestions.cleaner}
        value={w.cleaner}
        options={{
          "by-place": ["On brush near rotors", "sprayed elsewhere"],
          sprayed: ["Cleaner sprayed", "degreaser still on brush at rotors and rims"],
          "on-brush": ["On brush or cloth", "everywhere"],
        }}
        choose={(cleaner) => change({ cleaner })}
      />
      <SchoolChoice
        label={workQuestions.crank}
        value={w.crank}
        options={{
          backward: ["Backward", "the wheel stands still"],
          forward: ["Forward", "rear wheel off the ground, motor off"],
        }}
        choose={(crank) => change({ crank })}
      />
    </>
  );
}

/** When a chain is lubricated again, and how oil goes on. */
function OilSchools({ w, change }: WorkProps) {
  return (
    <>
      <LubricatedAgain w={w} change={change} />
      <SchoolChoice
        label={workQuestions.oil_by}
        value={w.oil_by}
        options={{
          drops: ["A drop per roller", "least oil, and every roller gets it"],
          stream: ["As a thin stream", "faster, 1.6 times as much"],
          spray: ["From a spray can", "wets more than it need; not near rotors"],
        }}
        choose={(oil_by) => change({ oil_by })}
      />
      <SchoolChoice
        label={workQuestions.oiling}
        value={w.oiling}
        options={{
          fitted: ["When it is fitted", "by the rollers, on the run"],
          "off-bike": ["Before it goes on", "on the rack"],
          "heated-bath": ["In a heated bath", `an oil made for it, ${amount("temperature", 30)}, 30 minutes a side`],
        }}
        choose={(oiling) => change({ oiling })}
      />
    </>
  );
}

/** How long each step takes here, and what the shop's own work has taught of it. */
export function MinutesOfSteps(p: PartProps & { view: RulesView }) {
  const { w, change } = changing(p);
  return (
    <Section title="Minutes of each step">
      <Learned minutes={w.minutes} set={(minutes) => change({ minutes })} />
      <p className="text-note text-quiet">The day plan and quotes use these; an empty field is the default.</p>
      <div className="grid grid-cols-2 gap-3 sm:grid-cols-3 xl:grid-cols-5">
        {p.view.defaults.steps.map((s) => (
          <Line
            key={s.code}
            label={s.title}
            hint={`default: ${s.minutes}`}
            unit="min"
            value={w.minutes[s.code] ?? ""}
            set={(v) => change({ minutes: { ...w.minutes, [s.code]: v } })}
            fault={p.fault(`work.minutes.${s.code}`)}
          />
        ))}
      </div>
    </Section>
  );
}

/** What an hour, a route and its waste cost, and how a price is made of them. */
export function WorkPrices({ fault, ...p }: PartProps) {
  const { w, change } = changing(p);
  const currency = p.draft.currency.slice(0, 3);
  return (
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
          label="Fluid mark-up, times"
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
          label="Ask the customer beyond"
          unit="%"
          value={w.ask_over_pct}
          set={(ask_over_pct) => change({ ask_over_pct })}
          fault={fault("work.ask_over_pct")}
        />
      </div>
      <Tick on={w.tax_inside} set={(tax_inside) => change({ tax_inside })}>
        {workQuestions.tax_inside}
      </Tick>
      <ByRoute
        label="A fixed price for the work of a route; empty goes by the hour"
        unit={currency}
        values={w.fixed}
        set={(fixed) => change({ fixed })}
        fault={(r) => fault(`work.fixed_route.${r}`)}
      />
      <ByRoute
        label="Share of the waste"
        unit={currency}
        values={w.waste}
        set={(waste) => change({ waste })}
        fault={(r) => fault(`work.waste_route.${r}`)}
      />
    </Section>
  );
}

/** An amount for each route. */
function ByRoute(props: {
  label: string;
  unit: string;
  values: Record<string, string>;
  set: (values: Record<string, string>) => void;
  fault: (route: string) => string | undefined;
}) {
  return (
    <fieldset className="min-w-0">
      <legend className="fieldset-legend">{props.label}</legend>
      <div className="grid grid-cols-2 gap-3 sm:grid-cols-3 lg:grid-cols-6">
        {routeNames.map((r) => (
          <Line
            key={r}
            label={routeWords[r].name}
            unit={props.unit}
            value={props.values[r] ?? ""}
            set={(v) => props.set({ ...props.values, [r]: v })}
            fault={props.fault(r)}
          />
        ))}
      </div>
    </fieldset>
  );
}

/** How water under pressure is used. */
function Pressure({ w, change }: WorkProps) {
  return (
    <SchoolChoice
      label={workQuestions.pressure}
      value={w.pressure}
      options={{
        low: ["Low, at a distance", "never at bearings, seals, motor or display"],
        never: ["Never", "bucket and hose only"],
      }}
      choose={(pressure) => change({ pressure })}
    />
  );
}

/** When a chain is lubricated again. */
function LubricatedAgain({ w, change }: WorkProps) {
  return (
    <SchoolChoice
      label={workQuestions.when}
      value={w.when}
      options={{
        "by-lubricant": ["By its lubricant", "each family at its own distance"],
        "little-and-often": ["Little and often", `every ${range("distance", 50, 65)}: touring, bikepacking`],
        "when-it-speaks": ["When it gets noisy", `at the first noise, ${amount("distance", 800)} at most`],
      }}
      choose={(when) => change({ when })}
    />
  );
}

/** The two questions of the work that a new shop is asked. */
export function FirstWorkSchools(p: Pick<PartProps, "draft" | "change">) {
  const work = changing(p);
  return (
    <>
      <LubricatedAgain {...work} />
      <Pressure {...work} />
    </>
  );
}
