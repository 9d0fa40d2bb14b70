import { useId } from "react";
import { Input, Select } from "../../ui/controls";
import { Field } from "../../ui/parts";
import { locales, localeWords } from "./where";

type Of = {
  value: string;
  set: (value: string) => void;
  fault: string | undefined;
  hint?: string | undefined;
};

/** The zone that a shop goes by, by its IANA name. */
export function ZoneField({ value, set, fault, hint }: Of) {
  const list = useId();
  return (
    <Field label="Time zone" fault={fault} hint={hint}>
      {(a) => (
        <>
          <Input
            {...a}
            name="time_zone"
            list={list}
            autoComplete="off"
            maxLength={60}
            value={value}
            onChange={(e) => set(e.target.value)}
          />
          <datalist id={list}>
            {(Intl.supportedValuesOf?.("timeZone") ?? []).map((z) => (
              <option key={z} value={z} />
            ))}
          </datalist>
        </>
      )}
    </Field>
  );
}

/** The region in whose way a shop writes. */
export function LocaleField({ value, set, fault, hint }: Of) {
  return (
    <Field label="Numbers, dates and money as in" fault={fault} hint={hint}>
      {(a) => (
        <Select {...a} name="locale" value={value} onChange={(e) => set(e.target.value)}>
          {[...new Set([...locales, value])].map((l) => (
            <option key={l} value={l}>
              {localeWords(l)}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
}
