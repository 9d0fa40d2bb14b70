import { useQuery } from "@tanstack/react-query";
import { learnedMinutesOptions } from "../../api/queries";
import { Button } from "../../ui/controls";
import { Failure } from "../../ui/parts";
import type { WorkDraft } from "./draft";

type Props = { minutes: WorkDraft["minutes"]; set: (minutes: WorkDraft["minutes"]) => void };

/** Steps that really take longer or shorter than planned: taken over one by one, and kept with the rules. */
export function Learned({ minutes, set }: Props) {
  const learned = useQuery(learnedMinutesOptions);
  if (learned.isError && learned.data === undefined)
    return <Failure error={learned.error} again={() => learned.refetch()} />;
  const open = (learned.data ?? []).filter((s) => minutes[s.code] !== String(s.suggested));
  if (open.length === 0) return null;
  return (
    <section aria-label="What steps really take" className="rounded-field border border-base-300">
      <h3 className="px-3 pt-2 font-semibold">What steps really take</h3>
      <p className="px-3 text-note text-quiet">
        The middle of the last times each was done. Nothing changes until you take it over and save the settings.
      </p>
      <ul>
        {open.map((s) => (
          <li
            key={s.code}
            className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-base-300 px-3 py-1.5 first:border-t-0"
          >
            <span className="min-w-0 grow basis-56">
              {s.title}: planned <span className="font-mono">{s.planned}</span> min, takes{" "}
              <b className="font-mono">{s.suggested}</b> min
              <span className="block text-fine text-quiet">
                of {s.of} times
                {s.people.map((p) => `; ${p.name} ${p.minutes} min`).join("")}
              </span>
            </span>
            <Button
              aria-label={`Plan ${s.suggested} min for ${s.title}`}
              onClick={() => set({ ...minutes, [s.code]: String(s.suggested) })}
            >
              Plan {s.suggested} min
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
