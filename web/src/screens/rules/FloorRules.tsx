import { useQuery } from "@tanstack/react-query";
import type { FloorRules as Kept, RulesView } from "../../api/client";
import { peopleOptions } from "../../api/queries";
import { PressButton } from "../../ui/controls";
import { placeWords } from "../floor/rail";
import type { PartProps } from "./classes";
import type { FloorDraft } from "./draft";
import { Line, Section } from "./fields";
import { week } from "./hours";

const skills: Record<Kept["people"][string]["skills"][number], string> = {
  wash: "Washes",
  drivetrain: "Drivetrains",
  checks: "Final checks",
};
const skillNames = Object.keys(skills) as (keyof typeof skills)[];

/** What the day plan goes by: hours, people and places. */
export function FloorRules(p: PartProps & { view: RulesView }) {
  return (
    <Section title="The workshop day">
      <p className="text-note text-quiet">The day plan uses these. It is made again when they change.</p>
      <PlacesThere {...p} />
      <OpenHours {...p} />
      <HandsThere {...p} />
    </Section>
  );
}

const changing = ({ draft, change }: Pick<PartProps, "draft" | "change">) => ({
  f: draft.floor,
  change: (part: Partial<FloorDraft>) => change({ floor: { ...draft.floor, ...part } }),
});

/** How many there are of each place where work is done. */
export function PlacesThere({ fault, ...p }: PartProps) {
  const { f, change } = changing(p);
  return (
    <div className="grid grid-cols-2 gap-3 sm:grid-cols-3 lg:grid-cols-6">
      {Object.entries(placeWords).map(([place, name]) => (
        <Line
          key={place}
          label={`${name}${place.endsWith("h") ? "es" : "s"}`}
          value={f.places[place] ?? ""}
          set={(n) => change({ places: { ...f.places, [place]: n } })}
          fault={fault(`floor.places.${place}`)}
        />
      ))}
    </div>
  );
}

/** When the shop is open. */
export function OpenHours({ fault, ...p }: PartProps) {
  const { f, change } = changing(p);
  return (
    <div className="grid gap-3 sm:grid-cols-2 xl:grid-cols-4">
      {week.map((day) => (
        <Line
          key={day}
          label={`Open on ${day}s`}
          numeric={false}
          value={f.hours[day] ?? ""}
          set={(h) => change({ hours: { ...f.hours, [day]: h } })}
          fault={fault(`floor.hours.${day}`)}
        />
      ))}
    </div>
  );
}

/** Who does what, and when they are here where that is not as the shop is open. */
export function HandsThere({ view, fault, ...p }: PartProps & { view: RulesView }) {
  const people = useQuery(peopleOptions).data ?? [];
  const { f, change } = changing(p);
  return (
    <ul className="flex flex-col">
      {people.map((p) => {
        const said = f.people[p.id] ?? { skills: view.defaults.skills[p.role] ?? [], hours: "", away: "" };
        const put = (part: Partial<typeof said>) => change({ people: { ...f.people, [p.id]: { ...said, ...part } } });
        return (
          <li key={p.id} className="grid gap-3 border-t border-base-300 py-3 lg:grid-cols-[1.4fr_1fr_1fr]">
            <fieldset className="min-w-0">
              <legend className="font-semibold">{p.name}</legend>
              <div className="mt-1 flex flex-wrap gap-1.5">
                {skillNames.map((s) => (
                  <PressButton
                    key={s}
                    on={said.skills.includes(s)}
                    onClick={() =>
                      put({
                        skills: said.skills.includes(s) ? said.skills.filter((x) => x !== s) : [...said.skills, s],
                      })
                    }
                  >
                    {skills[s]}
                  </PressButton>
                ))}
              </div>
            </fieldset>
            <Line
              label="Own hours, as mon 09:00-13:00; wed off"
              numeric={false}
              value={said.hours}
              set={(hours) => put({ hours })}
              fault={fault(`floor.people.${p.id}.hours`)}
            />
            <Line
              label="Away on, as 2026-12-24"
              numeric={false}
              value={said.away}
              set={(away) => put({ away })}
              fault={fault(`floor.people.${p.id}.away`)}
            />
          </li>
        );
      })}
    </ul>
  );
}
