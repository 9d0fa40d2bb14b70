import type { ReactNode } from "react";
import { Input, PressButton } from "../../ui/controls";
import { Field } from "../../ui/parts";

// What the forms of the rules are made of.

/** One of a few ways of doing something, each with why. */
export function SchoolChoice<T extends string>(props: {
  label: string;
  value: T;
  options: Record<T, [name: string, why: string]>;
  choose: (v: T) => void;
}) {
  return (
    <fieldset className="min-w-0">
      <legend className="fieldset-legend">{props.label}</legend>
      <div className="grid gap-1.5 sm:grid-cols-2 lg:grid-cols-3">
        {(Object.entries(props.options) as [T, [string, string]][]).map(([value, [name, why]]) => (
          <PressButton
            key={value}
            on={value === props.value}
            onClick={() => props.choose(value)}
            className="flex-col items-start gap-0 text-left leading-snug font-normal"
          >
            <span className="block font-semibold">{name}</span>
            {why && <span className="block text-fine opacity-80">{why}</span>}
          </PressButton>
        ))}
      </div>
    </fieldset>
  );
}

export function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="card card-border bg-base-100 flex flex-col gap-3 p-4" aria-label={title}>
      <h2 className="text-lg">{title}</h2>
      {children}
    </section>
  );
}

export function Line(props: {
  label: string;
  value: string;
  set: (v: string) => void;
  fault?: string | undefined;
  hint?: string | undefined;
  unit?: string;
  numeric?: boolean;
}) {
  return (
    <Field label={props.label} hint={props.hint} fault={props.fault} unit={props.unit}>
      {(a) => (
        <Input
          {...a}
          inputMode={props.numeric === false ? "text" : "decimal"}
          maxLength={300}
          value={props.value}
          onChange={(e) => props.set(e.target.value)}
        />
      )}
    </Field>
  );
}
