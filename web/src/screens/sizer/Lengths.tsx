import type { GearPath, GearState, SizerAnswer } from "../../api/client";
import { lengthsAround } from "../../draw/gear";
import { Button, Range } from "../../ui/controls";

/** Every gear in a small map: which fit, which are tight, which hang slack. A press draws it. */
export function GearMap(props: {
  gears: GearState[];
  at: Pick<GearPath, "ring" | "sprocket">;
  draw: (g: { ring: number; sprocket: number }) => void;
}) {
  const rings = [...new Set(props.gears.map((g) => g.ring))];
  return (
    <fieldset className="flex min-w-0 flex-col gap-1" aria-label="Gears">
      {rings.map((ring) => (
        <div key={ring} className="flex items-center gap-1">
          {rings.length > 1 && <span className="w-8 shrink-0 font-mono text-note text-quiet">{ring}</span>}
          <div className="grid min-w-0 grow grid-cols-[repeat(auto-fill,minmax(44px,1fr))] gap-0.5">
            {props.gears
              .filter((g) => g.ring === ring)
              .map((g) => {
                const on = g.ring === props.at.ring && g.sprocket === props.at.sprocket;
                return (
                  <Button
                    key={g.sprocket}
                    aria-pressed={on}
                    aria-label={`${g.ring} × ${g.sprocket}, ${stateWords[g.state]}`}
                    onClick={() => props.draw({ ring: g.ring, sprocket: g.sprocket })}
                    kind="cell"
                    className={`flex min-h-(--target) min-w-0 flex-col items-center justify-center rounded-field border font-mono leading-tight ${on ? "border-2 border-base-content bg-accent text-accent-content" : "border-base-300 hover:bg-base-200"}`}
                  >
                    <span className="text-base font-semibold">{g.sprocket}</span>
                    {g.state !== "ok" && (
                      <span
                        className={`text-mark font-semibold ${on ? "" : g.state === "tight" ? "text-error" : "text-due-ink"}`}
                      >
                        {g.state}
                      </span>
                    )}
                  </Button>
                );
              })}
          </div>
        </div>
      ))}
    </fieldset>
  );
}

const stateWords: Record<GearState["state"], string> = { ok: "fits", tight: "too tight", slack: "hangs slack" };

const shortMethod: Record<NonNullable<SizerAnswer["length"]>["method"], string> = {
  wrap: "wrapped",
  formula: "formula",
  geometry: "geometry",
  maker: "maker",
  "old-chain": "old chain",
};

/** The lengths from too tight to too slack, with what the methods say; dragged, the cage swings. */
export function LengthBar({ a, attempt }: { a: SizerAnswer; attempt: (n: number | null) => void }) {
  const l = a.length;
  if (!l || !a.gear) return null;
  const w = a.gear.window;
  const counts = [
    l.keep_links,
    ...l.methods.map((m) => m.links),
    ...(w.min_links === undefined ? [] : [w.min_links]),
    ...(w.max_links === undefined ? [] : [w.max_links]),
  ];
  const bar = lengthsAround(counts);
  const at = (n: number) => `${100 * bar.at(n)}%`;
  const step = bar.even.length > 9 ? 4 : 2;
  const drawn = a.drawn ?? l.keep_links;
  return (
    <div className="flex flex-col gap-1">
      <div className="flex flex-wrap items-baseline justify-between gap-x-3">
        <p className="text-fine font-semibold text-quiet">How many links would work</p>
        {drawn !== l.keep_links && (
          <Button kind="quiet" className="px-1 text-note" onClick={() => attempt(null)}>
            Back to {l.keep_links}
          </Button>
        )}
      </div>
      <div className="relative mx-3 h-[52px]">
        <div className="absolute inset-x-0 top-[26px] h-3 rounded-full bg-base-300" />
        {w.min_links !== undefined && w.max_links !== undefined && (
          <div
            className="absolute top-[26px] h-3 rounded-full bg-success"
            style={{ left: at(w.min_links - 0.7), width: `calc(${at(w.max_links + 0.7)} - ${at(w.min_links - 0.7)})` }}
          />
        )}
        {bar.even.map((n) => (
          <span key={n} className="absolute top-0 -translate-x-1/2 text-center" style={{ left: at(n) }}>
            <span
              className={`block font-mono leading-5 ${n === l.keep_links ? "text-lg font-bold text-primary" : "text-fine text-quiet"}`}
            >
              {n === l.keep_links || (n - bar.from) % step === 0 ? n : ""}
            </span>
            {l.methods.some((m) => m.links === n) && (
              <span className="absolute top-[44px] left-1/2 size-2 -translate-x-1/2 rotate-45 bg-base-content" />
            )}
            <span
              className={`mx-auto block w-[2px] ${n === l.keep_links ? "mt-0 h-[24px] w-[3px] bg-primary" : "mt-[2px] h-[16px] bg-steel-dark"}`}
            />
          </span>
        ))}
      </div>
      <Range
        aria-label="Links that are drawn"
        min={bar.from}
        max={bar.to}
        step={2}
        value={drawn}
        onChange={(e) => attempt(Number(e.target.value))}
      />
      <ul className="flex flex-wrap gap-x-4 text-fine text-quiet" aria-label="What the methods say">
        {[...new Set(l.methods.map((m) => m.links))]
          .sort((x, y) => x - y)
          .map((n) => (
            <li key={n}>
              <span className="font-mono font-semibold text-base-content">{n}</span>{" "}
              {l.methods
                .filter((m) => m.links === n)
                .map((m) => shortMethod[m.method])
                .join(", ")}
            </li>
          ))}
      </ul>
      <div className="flex justify-between gap-3 text-fine font-semibold">
        <span className="text-error">too tight: tears the derailleur off</span>
        <span className="text-right text-due-ink">slack in smallest to smallest</span>
      </div>
      {w.empty && (
        <p className="text-note font-semibold text-error">
          No length works in all gears: the cage is too small for them. Largest to largest must go; keep off the slack
          ones.
        </p>
      )}
    </div>
  );
}
