import { Input, Select, TextArea } from "../../ui/controls";
import { useDistance } from "../../ui/distance";
import { Choice, Field } from "../../ui/parts";
import { signOf, understood } from "../../ui/units";
import { WhenField } from "../../ui/WhenField";
import { bikeKindWords, careWords, drivetrainWords, lubricantWords, mixWords, motorWords } from "../../words/bikes";
import { schoolWords } from "../../words/wear";
import { type Draft, kinds } from "./draft";

/** The facts of a bike as they are typed, section by section. */
export function BikeFields(props: {
  draft: Draft;
  set: (name: keyof Draft) => (value: string) => void;
  fault: (path: string) => string | undefined;
}) {
  const { draft, set, fault } = props;
  const d = useDistance();
  const text = (
    name: keyof Draft,
    label: string,
    extra: { unit?: string; hint?: string; numeric?: boolean; max?: number } = {},
  ) => (
    <Field
      label={label}
      unit={extra.unit ?? (kinds[name] && signOf(kinds[name]))}
      hint={(kinds[name] && understood(kinds[name], draft[name])) ?? extra.hint}
      fault={fault(`facts.${name}`)}
    >
      {(a) => (
        <Input
          {...a}
          name={name}
          value={draft[name]}
          inputMode={extra.numeric ? "decimal" : "text"}
          maxLength={extra.max ?? 80}
          onChange={(e) => set(name)(e.target.value)}
        />
      )}
    </Field>
  );
  const pick = (name: keyof Draft, label: string, words: Record<string, string>) => (
    <Field label={label} fault={fault(`facts.${name}`)}>
      {(a) => (
        <Select {...a} name={name} value={draft[name]} onChange={(e) => set(name)(e.target.value)}>
          <option value="">not known</option>
          {Object.entries(words).map(([value, w]) => (
            <option key={value} value={value}>
              {w}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );

  return (
    <>
      <Section title="The bike">
        {text("make", "Make")}
        {text("model", "Model")}
        {text("colour", "Colour", { max: 80 })}
        {text("frame_number", "Frame number", { max: 60 })}
        {pick("kind", "Kind", bikeKindWords)}
        {pick("brakes", "Brakes", { rim: "rim", disc: "disc", drum: "drum", coaster: "coaster" })}
        {pick("motor", "Motor", motorWords)}
      </Section>
      <Section title="Drivetrain">
        {pick("drivetrain_kind", "Gears", drivetrainWords)}
        {text("sprocket_count", "Speeds (rear sprockets)", { numeric: true })}
        {text("sprocket_teeth", "Sprocket teeth", { hint: "all, or smallest and largest: 11–42" })}
        {text("ring_teeth", "Chainring teeth", { hint: "34, 50" })}
        {text("chain_links", "Links in the chain", { numeric: true, hint: "inner and outer counted alike" })}
        {text("chainstay_mm", "Chainstay", { numeric: true })}
        {text("chainstay_growth_mm", "Chainstay growth at full travel", { numeric: true })}
        {text("cage_mm", "Derailleur cage", { numeric: true })}
        {text("capacity_teeth", "Capacity", { unit: "teeth", numeric: true })}
        <Choice
          label="Clutch"
          value={draft.clutch}
          options={[
            { value: "", words: "Not known" },
            { value: "yes", words: "Yes" },
            { value: "no", words: "No" },
          ]}
          choose={set("clutch")}
        />
      </Section>
      <Section title="How it is ridden and kept">
        {text("weekly_km", "A week", { unit: d.unit, numeric: true })}
        {pick("lubricant", "Lubricant now", lubricantWords)}
        {pick("care", "How the chain is kept", careWords)}
        <fieldset className="min-w-0 sm:col-span-2 lg:col-span-3">
          <legend className="fieldset-legend">Shares of its riding, together 100 %</legend>
          <div className="grid grid-cols-2 gap-2 sm:grid-cols-5">
            {Object.entries(mixWords).map(([name, words]) => (
              <div key={name}>{text(name as keyof Draft, words, { unit: "%", numeric: true })}</div>
            ))}
          </div>
          {fault("facts.mix") && <p className="mt-1 text-fine font-semibold text-error">{fault("facts.mix")}</p>}
        </fieldset>
      </Section>
      <Section title="Instead of the shop's rule, where this bike needs it">
        {pick(
          "wear_school",
          "Wear rule",
          Object.fromEntries(Object.entries(schoolWords).map(([school, words]) => [school, words.name])),
        )}
        {text("limit_pct", "Replace the chain at", { unit: "%", numeric: true })}
        {text("together_pct", "Cassette with it past", { unit: "%", numeric: true })}
        {pick("limit_source", "Whose limit", { maker: "the maker's", bike: "the shop's, for this bike" })}
        <div className="sm:col-span-2 lg:col-span-3">{text("limit_reason", "Why", { max: 300 })}</div>
      </Section>
      <Section title="Notes">
        <div className="sm:col-span-2 lg:col-span-3">
          <WhenField
            label="Its customer needs it ready on"
            ask="day"
            name="needed_on"
            value={draft.needed_on}
            set={set("needed_on")}
            fault={fault("facts.needed_on")}
          />
          {text("needed_for", "For what", { max: 120 })}
          <Field label="What the next mechanic should know" fault={fault("facts.notes")}>
            {(a) => (
              <TextArea
                {...a}
                name="notes"
                rows={3}
                value={draft.notes}
                maxLength={4000}
                onChange={(e) => set("notes")(e.target.value)}
              />
            )}
          </Field>
        </div>
      </Section>
    </>
  );
}

/** Fields that belong together. */
export function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <fieldset className="card card-border bg-base-100 grid min-w-0 gap-3 p-4 sm:grid-cols-2 lg:grid-cols-3">
      <legend className="sr-only">{title}</legend>
      <p aria-hidden className="text-base font-semibold sm:col-span-2 lg:col-span-3">
        {title}
      </p>
      {children}
    </fieldset>
  );
}
