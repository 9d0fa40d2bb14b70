import { Input } from "./controls";
import { useDistance } from "./distance";
import { Field } from "./parts";
import { understood } from "./units";

type Props = {
  label: string;
  value: string;
  set: (typed: string) => void;
  hint?: string | undefined;
  fault?: string | undefined;
};

/** What an odometer shows, in the shop's unit. */
export function OdometerField({ label, value, set, hint, fault }: Props) {
  const { unit } = useDistance();
  return (
    <Field label={label} unit={unit} hint={understood("distance", value) ?? hint} fault={fault}>
      {(a) => (
        <Input
          {...a}
          name="odometer"
          inputMode="decimal"
          value={value}
          maxLength={14}
          onChange={(e) => set(e.target.value)}
        />
      )}
    </Field>
  );
}
