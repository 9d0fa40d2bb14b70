import type { ReactNode } from "react";
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
      <legend className="label-small mb-1">{props.label}</legend>
      <div className="grid gap-1.5 sm:grid-cols-2 lg:grid-cols-3">
        {(Object.entries(props.options) as [T, [string, string]][]).map(([value, [name, why]]) => (
          <button
            key={value}
            type="button"
            aria-pressed={value === props.value}
            onClick={() => props.choose(value)}
            className={`min-h-(--target) rounded-field border px-3 py-1.5 text-left leading-snug ${
              value === props.value
                ? "border-neutral bg-neutral text-neutral-content"
                : "border-base-300 bg-base-100 enabled:hover:bg-base-200"
            }`}
          >
            <span className="block font-semibold">{name}</span>
            {why && <span className="block text-[13px] opacity-80">{why}</span>}
          </button>
        ))}
      </div>
    </fieldset>
  );
}

export function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="panel flex flex-col gap-3 p-4" aria-label={title}>
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
        <input
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
