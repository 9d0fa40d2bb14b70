import { Problem } from "../../api/client";
import { mixQuestion } from "../../api/queries";
import { Vessel } from "../../draw/Vessel";
import { Asked, useAnswer } from "../../ui/answer";
import { Input } from "../../ui/controls";
import { digits } from "../../ui/format";
import { useKept } from "../../ui/kept";
import { Choice, Field } from "../../ui/parts";
import { faultAt, namesFields } from "../../ui/sending";
import { held, signOf, understood, volume } from "../../ui/units";
import { asks, type Draft, houseMix, isDraft, poured, toQuestion } from "./mix";

const fields: Record<(typeof asks)[Draft["mode"]][number], { label: string; unit?: string; volume?: true }> = {
  product_parts: { label: "Product", unit: "parts" },
  water_parts: { label: "Water", unit: "parts" },
  volume_ml: { label: "For", volume: true },
  strength_pct: { label: "Strength", unit: "%" },
  have_ml: { label: "You have", volume: true },
  have_strength_pct: { label: "Its strength", unit: "%" },
  want_ml: { label: "You want", volume: true },
  want_strength_pct: { label: "Strength wanted", unit: "%" },
};

const vessels = [
  [60, "Clip-on cleaner"],
  [250, "Jar"],
  [500, "Tray"],
] as const;

/** How much product and how much water. */
export function Mixing() {
  const [draft, setDraft] = useKept<Draft>(`pony.mix.${signOf("volume")}`, houseMix(), isDraft);
  const read = toQuestion(draft);
  const answer = useAnswer(mixQuestion(read.question));
  const fault = (name: keyof typeof fields) => read.faults[name] ?? faultAt(answer.error, name);
  return (
    <section className="card card-border bg-base-100 flex flex-col gap-3 p-4" aria-label="Mixing">
      <h2 className="text-lg">Mixing</h2>
      <Choice
        label="By"
        value={draft.mode}
        options={[
          { value: "ratio", words: "Parts" },
          { value: "strength", words: "Strength" },
          { value: "top-up", words: "Topping up" },
        ]}
        choose={(mode) => setDraft({ ...draft, mode })}
      />
      <div className={`grid gap-2 ${draft.mode === "ratio" ? "grid-cols-3" : "grid-cols-2"}`}>
        {asks[draft.mode].map((name) => (
          <Field
            key={name}
            label={fields[name].label}
            unit={fields[name].volume ? signOf("volume") : fields[name].unit}
            hint={fields[name].volume && understood("volume", draft[name])}
            fault={fault(name)}
          >
            {(a) => (
              <Input
                {...a}
                name={name}
                inputMode="decimal"
                autoComplete="off"
                maxLength={10}
                value={draft[name]}
                onChange={(e) => setDraft({ ...draft, [name]: e.target.value })}
              />
            )}
          </Field>
        ))}
      </div>
      {draft.mode !== "top-up" && (
        <Choice
          label="Vessels"
          value={vessels.map(([ml]) => held("volume", ml)).find((v) => v === draft.volume_ml)}
          options={vessels.map(([ml, words]) => ({
            value: held("volume", ml),
            words: `${words} ${held("volume", ml)}`,
          }))}
          choose={(volume_ml) => setDraft({ ...draft, volume_ml })}
        />
      )}
      {!(answer.error instanceof Problem && namesFields(answer.error)) && (
        <Asked of={answer}>
          {(a) => <Answer pour={poured(a.question, a.answer)} strength={a.answer.strength_pct} />}
        </Asked>
      )}
      <p className="border-l-4 border-warning pl-3 text-note">
        <b>Gloves and eye protection.</b> The product's label comes first. Acid goes into water, never water onto acid,
        and never near a chlorine cleaner.
      </p>
    </section>
  );
}

function Answer({ pour, strength }: { pour: ReturnType<typeof poured>; strength: number }) {
  return (
    <div className="flex items-center gap-4" aria-live="polite" data-testid="mix">
      <Vessel poured={pour} holds={pour.there + pour.water + pour.product} />
      <dl className="flex min-w-0 flex-col gap-2">
        {pour.there > 0 && <Amount what="There already" ml={pour.there} />}
        <Amount what={pour.there > 0 ? "Add water" : "Water first"} ml={pour.water} />
        <Amount what={pour.there > 0 ? "Add product" : "Then product"} ml={pour.product} />
        <div>
          <dt className="text-fine font-semibold text-quiet">Strength then</dt>
          <dd className="font-mono">{digits(strength, 1)} %</dd>
        </div>
      </dl>
    </div>
  );
}

function Amount({ what, ml }: { what: string; ml: number }) {
  return (
    <div>
      <dt className="text-fine font-semibold text-quiet">{what}</dt>
      <dd className="font-mono text-xl font-semibold">{volume(ml)}</dd>
    </div>
  );
}
