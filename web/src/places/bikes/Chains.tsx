import { useQuery } from "@tanstack/react-query";
import { wearTrackOptions } from "../../api/queries";
import { useDistance } from "../../ui/distance";
import { shortDay } from "../../ui/format";

/** The chains of a bike as parts, the one now on first, each with the distance that is its own. */
export function Chains({ tag }: { tag: string }) {
  const track = useQuery(wearTrackOptions(tag));
  const d = useDistance();
  if (!track.data) return null; // the track beside it says why
  const chains = track.data.chains.toReversed();
  return (
    <section className="panel p-4" aria-label="Chains">
      <h2 className="label-small mb-1">Chains</h2>
      {chains.length === 0 && <p className="text-quiet">None is on record as fitted yet.</p>}
      <ul>
        {chains.map((c, i) => (
          <li key={c.entry_id} className="flex justify-between gap-4 border-t border-base-300 py-1.5">
            <span className="min-w-0">
              <span className={i === 0 ? "font-semibold" : ""}>{i === 0 ? "On now" : "Before"}</span>
              {c.what && <span className="break-words">, {c.what}</span>}
              <span className="block text-[13px] text-quiet">
                {shortDay(c.fitted_at)}, {c.fitted_by}
                {c.odometer_km !== undefined && (
                  <>
                    {" "}
                    at <span className="font-mono">{Math.round(d.of(c.odometer_km))}</span> {d.unit}
                  </>
                )}
              </span>
            </span>
            <span className="shrink-0 text-right">
              <span className="font-mono">{Math.round(d.of(c.hard_km))}</span>
              <span className="block text-[13px] text-quiet">hard {d.unit}</span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
