import { useRef } from "react";
import { Button, Input } from "./controls";
import { platformTime } from "./days";
import { Icon } from "./icons";
import { Field } from "./parts";
import { example, readWhen, typedDay, typedWhen, whenInFull } from "./when";

/**
 * A field for a day or a moment by the shop's clock. What is typed is echoed in full; the platform's own calendar is behind a
 * button, for fingers, and writes into the field as the shop writes.
 */
export function WhenField(props: {
  label: string;
  ask: "day" | "moment";
  value: string;
  set: (text: string) => void;
  name?: string;
  /** Towards what was, as of a fitting; else towards what is to come. */
  past?: boolean;
  fault?: string | undefined;
}) {
  const { label, ask, value, set, name, past = false, fault } = props;
  const picker = useRef<HTMLInputElement>(null);
  const when = readWhen(value, ask, !past);
  const said = whenInFull(when);
  const platform = when.is === "moment" ? platformTime(when.at) : when.is === "day" ? when.day : "";
  const pick = (text: string) => {
    if (text === "") return;
    if (ask === "day") set(typedDay(text));
    else {
      const picked = readWhen(text.replace("T", " "), "moment");
      set(picked.is === "moment" ? typedWhen(picked.at) : text.replace("T", " "));
    }
  };
  return (
    <div className="flex flex-col gap-1">
      <Field label={label} fault={fault} hint={when.is === "nothing" ? `Such as ${example(ask)}.` : undefined}>
        {(a) => (
          <span className="relative flex items-center gap-2">
            <Input
              {...a}
              {...(name ? { name } : {})}
              value={value}
              autoComplete="off"
              maxLength={60}
              onChange={(e) => set(e.target.value)}
            />
            <input
              ref={picker}
              type={ask === "day" ? "date" : "datetime-local"}
              className="pointer-events-none absolute right-0 bottom-0 h-px w-px opacity-0"
              tabIndex={-1}
              aria-hidden="true"
              value={platform}
              onChange={(e) => pick(e.target.value)}
            />
            <Button
              className="shrink-0 px-3"
              aria-label={`${label}: pick from a calendar`}
              onClick={() => picker.current?.showPicker?.()}
            >
              <Icon name="due" size={20} />
            </Button>
          </span>
        )}
      </Field>
      <p className="text-note empty:hidden" role="status" data-testid="in-full">
        {said ?? (when.is === "none" && !fault ? when.why : "")}
      </p>
      {when.is === "twice" && (
        <fieldset className="flex flex-wrap items-center gap-2 text-note">
          <legend className="mb-1">The clocks go back: this time is shown twice. Which?</legend>
          {([when.first, when.second] as const).map((at, i) => (
            <Button key={at} onClick={() => set(typedWhen(at))}>
              {i === 0 ? "The first" : "An hour later"}
            </Button>
          ))}
        </fieldset>
      )}
    </div>
  );
}
