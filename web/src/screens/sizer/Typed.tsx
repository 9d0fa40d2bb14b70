import { useQuery } from "@tanstack/react-query";
import { api, ask, type Bike, type BikeFacts } from "../../api/client";
import { bikeOptions } from "../../api/queries";
import { Button, Checkbox, Input, PressButton, Select } from "../../ui/controls";
import { Failure, Field } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { figure, signOf, understood } from "../../ui/units";
import { drivetrainWords } from "../../words/bikes";
import { jointWords } from "../../words/fitting";
import { type Draft, differs, withDraft } from "./draft";

type TypedProps = {
  draft: Draft;
  set: (part: Partial<Draft>) => void;
  fault: (path: string) => string | undefined;
  geared: boolean;
};

export function Typed({ draft, set, fault, geared }: TypedProps) {
  type Text = { [K in keyof Draft]: Draft[K] extends string ? K : never }[keyof Draft];
  const line = (name: Text, label: string, more: { unit?: string; hint?: string; place?: string } = {}) => (
    <Field
      label={label}
      unit={more.unit}
      hint={(name.endsWith("_mm") && understood("length", String(draft[name]))) || more.hint}
      fault={fault(name)}
    >
      {(f) => (
        <Input
          {...f}
          name={name}
          inputMode={more.unit ? "decimal" : "text"}
          maxLength={60}
          placeholder={more.place}
          className="font-mono"
          value={draft[name]}
          onChange={(e) => set({ [name]: e.target.value })}
        />
      )}
    </Field>
  );
  return (
    <>
      <Field label="Gears" fault={fault("kind")}>
        {(f) => (
          <Select {...f} name="kind" value={draft.kind} onChange={(e) => set({ kind: e.target.value })}>
            <option value="">choose</option>
            {Object.entries(drivetrainWords).map(([v, w]) => (
              <option key={v} value={v}>
                {w}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {line("rings", "Chainrings", { place: "34, 50" })}
      {line("sprockets", geared ? "Cassette" : "Sprocket", { place: geared ? "11–34" : "17" })}
      <div className="grid grid-cols-2 gap-2">
        {line("chainstay_mm", "Chainstay", { unit: signOf("length") })}
        {line("growth_mm", "Grows by", { unit: signOf("length") })}
        {geared && line("cage_mm", "Cage", { unit: signOf("length"), place: figure("length", 75) })}
        {geared && line("capacity_teeth", "Capacity", { unit: "teeth" })}
        {!geared && line("slot_mm", "Slots", { unit: signOf("length") })}
        {line("box_links", "In the box", { unit: "links" })}
        {line("old_links", "Old chain", { unit: "links" })}
        {line("maker_links", "Maker says", { unit: "links" })}
        {geared && line("overlap_links", "Overlap", { place: "usual" })}
      </div>
      {geared && (
        <div className="flex gap-1">
          {[
            ["short", figure("length", 56, 3)],
            ["middle", figure("length", 75, 3)],
            ["long", figure("length", 93, 3)],
          ].map(([name = "", long = ""]) => (
            <PressButton
              key={long}
              on={draft.cage_mm === long}
              onClick={() => set({ cage_mm: long })}
              className="grow px-1 text-fine leading-tight"
            >
              {name} {long}
            </PressButton>
          ))}
        </div>
      )}
      <Field label="Joined with" fault={fault("joint")}>
        {(f) => (
          <Select
            {...f}
            name="joint"
            value={draft.joint}
            onChange={(e) => set({ joint: e.target.value as Draft["joint"] })}
          >
            {Object.entries(jointWords).map(([v, w]) => (
              <option key={v} value={v}>
                {w}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {draft.joint !== "joining-link" && (
        <Tick
          words="The box counts a joining link"
          on={draft.box_has_joining_link}
          set={(box_has_joining_link) => set({ box_has_joining_link })}
        />
      )}
      {!geared && draft.kind !== "" && (
        <>
          <Tick words="With a half-link" on={draft.half_link} set={(half_link) => set({ half_link })} />
          {draft.slot_mm.trim() !== "" && (
            <Tick words="Slots open to the rear" on={draft.slots_rear} set={(slots_rear) => set({ slots_rear })} />
          )}
          <Tick words="Fixed gear" on={draft.fixed} set={(fixed) => set({ fixed })} />
          <Tick words="Coaster brake" on={draft.coaster} set={(coaster) => set({ coaster })} />
        </>
      )}
      {fault("half_link") && <p className="text-fine font-semibold text-error">{fault("half_link")}</p>}
    </>
  );
}

function Tick({ words, on, set }: { words: string; on: boolean; set: (on: boolean) => void }) {
  return (
    <label className="flex min-h-(--target) items-center gap-2 text-note">
      <Checkbox checked={on} onChange={(e) => set(e.target.checked)} />
      {words}
    </label>
  );
}

/** Saves what was typed back to the bike it came from. */
export function SaveBack({ draft }: { draft: Draft }) {
  const bike = useQuery({ ...bikeOptions(draft.tag), enabled: draft.tag !== "" });
  const save = useWrite(
    (b: Bike) =>
      ask(
        api.PUT("/bikes/{tag}", {
          params: { path: { tag: b.tag } },
          body: {
            version: b.version,
            customer_id: b.customer.id,
            facts: withDraft(b.facts, draft) satisfies BikeFacts,
          },
        }),
      ),
    [{ topic: "bike", tag: draft.tag }],
  );
  if (!bike.data || !differs(bike.data.facts, draft)) return null;
  const b = bike.data;
  return (
    <>
      {save.isError && <Failure error={save.error} />}
      <Button disabled={save.isPending} onClick={() => save.mutate(b)}>
        Save back to the bike
      </Button>
    </>
  );
}
