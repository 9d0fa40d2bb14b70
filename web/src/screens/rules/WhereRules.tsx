import { momentsOf } from "../../ui/days";
import { clock, digits } from "../../ui/format";
import { money } from "../../ui/money";
import { Choice } from "../../ui/parts";
import { now, settle, ways } from "../../ui/shop";
import { typedDay } from "../../ui/when";
import type { PartProps } from "./classes";
import { Line, Section } from "./fields";
import { LocaleField, ZoneField } from "./PlaceFields";

/** What is said under ways that are only tried: nothing else on the page goes by them meanwhile. */
function under<T>(tried: Parameters<typeof settle>[0], say: () => T): T {
  const before = ways();
  settle({ ...before, ...tried });
  try {
    return say();
  } finally {
    settle(before);
  }
}

function known(zone: string): boolean {
  try {
    return Boolean(new Intl.DateTimeFormat("en", { timeZone: zone }));
  } catch {
    return false;
  }
}

/** Where the shop is, how it writes, and the units in which people there type and read. */
export function WhereRules({ draft, change: set, fault }: PartProps) {
  const zone = draft.time_zone.trim();
  const there =
    zone !== "" && known(zone)
      ? `It is ${under({ zone, locale: draft.locale }, () => clock(now()))} there.`
      : undefined;
  const sample = under({ locale: draft.locale }, () =>
    [
      digits(1234.5, 1),
      typedDay("2026-11-29"),
      clock(momentsOf("2026-11-29", 990)[0] ?? 0),
      money(1240, draft.currency),
    ].join(" · "),
  );
  return (
    <Section title="Place, time and units">
      <div className="grid gap-x-8 gap-y-3 sm:grid-cols-2">
        <ZoneField
          value={draft.time_zone}
          set={(time_zone) => set({ time_zone })}
          fault={
            fault("time_zone") ??
            (zone !== "" && !there
              ? "There is no such zone: one is named by a city, such as Europe/Berlin."
              : undefined)
          }
          hint={there}
        />
        <LocaleField value={draft.locale} set={(locale) => set({ locale })} fault={fault("locale")} hint={sample} />
      </div>
      <div className="flex flex-wrap gap-x-8 gap-y-3">
        <Choice
          label="Lengths"
          value={draft.length_unit}
          options={[
            { value: "mm", words: "Millimetres" },
            { value: "in", words: "Inches" },
          ]}
          choose={(length_unit) => set({ length_unit })}
        />
        <Choice
          label="Distances"
          value={draft.distance_unit}
          options={[
            { value: "km", words: "Kilometres" },
            { value: "mi", words: "Miles" },
          ]}
          choose={(distance_unit) => set({ distance_unit })}
        />
        <Choice
          label="Temperatures"
          value={draft.temperature_unit}
          options={[
            { value: "c", words: "°C" },
            { value: "f", words: "°F" },
          ]}
          choose={(temperature_unit) => set({ temperature_unit })}
        />
        <Choice
          label="Volumes"
          value={draft.volume_unit}
          options={[
            { value: "ml", words: "Millilitres" },
            { value: "fl-oz", words: "US fluid ounces" },
          ]}
          choose={(volume_unit) => set({ volume_unit })}
        />
        <Choice
          label="Weights"
          value={draft.mass_unit}
          options={[
            { value: "g", words: "Grams" },
            { value: "oz", words: "Ounces" },
          ]}
          choose={(mass_unit) => set({ mass_unit })}
        />
      </div>
      <p className="text-fine text-quiet">
        What was recorded stays as it is. Whatever a shop chooses, the other unit can be typed too: 17 in, 430 mm.
      </p>
    </Section>
  );
}

/** How long a device stays signed in that nobody uses. */
export function SigningOut({ draft, change, fault }: PartProps) {
  return (
    <Section title="Devices">
      <div className="w-60">
        <Line
          label="Signed out after"
          unit="min"
          value={draft.session_idle_minutes}
          set={(session_idle_minutes) => change({ session_idle_minutes })}
          fault={fault("session_idle_minutes")}
        />
      </div>
    </Section>
  );
}
