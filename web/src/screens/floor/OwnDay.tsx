import { useState } from "react";
import type { Floor } from "../../api/client";
import { Button } from "../../ui/controls";
import { dayOf } from "../../ui/days";
import { clock, shortName } from "../../ui/format";
import { useSession } from "../../ui/frame";
import { Choice } from "../../ui/parts";
import { Tag } from "../../ui/Tag";
import { type Go, goesOf } from "./rail";

/** One person's day as a list, for a phone: what they do when, in one go each. */
export function OwnDay({ floor: f, day, open }: { floor: Floor; day: string; open: (g: Go) => void }) {
  const me = useSession().person.id;
  const [picked, setPicked] = useState(f.people.some((p) => p.person.id === me) ? me : (f.people[0]?.person.id ?? ""));
  const goes = goesOf(f.stints.filter((s) => s.person === picked && dayOf(Date.parse(s.start)) === day));
  return (
    <section className="card card-border bg-base-100 flex flex-col gap-3 p-4" aria-label="One person's day">
      <Choice
        label="Whose day"
        value={picked}
        options={f.people.map((p) => ({ value: p.person.id, words: shortName(p.person.name) }))}
        choose={setPicked}
      />
      {goes.length === 0 && <p className="text-quiet">Nothing is planned for them on this day.</p>}
      <ol className="flex flex-col">
        {goes.map((g) => (
          <li key={`${g.first.job} ${g.first.start}`} className="border-t border-base-300 first:border-t-0">
            <Button
              kind="cell"
              className={`min-h-(--target) flex w-full items-center gap-3 py-2 text-left ${g.first.state === "done" ? "text-quiet" : ""}`}
              onClick={() => open(g)}
            >
              <span className="w-12 shrink-0 font-mono">{clock(g.first.start)}</span>
              <span className="min-w-0 grow">
                <b className="block">{g.title}</b>
                <span className="block text-note text-quiet">
                  {g.first.bike}, {g.minutes} min
                  {g.first.guess && "; a guess: it is not planned yet"}
                </span>
              </span>
              <Tag tag={g.first.tag} size="small" />
            </Button>
          </li>
        ))}
      </ol>
    </section>
  );
}
