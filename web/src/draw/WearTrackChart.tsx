import { useState } from "react";
import type { WearTrack } from "../api/client";
import { type Distance, useDistance } from "../ui/distance";
import { percent, shortDay, whole } from "../ui/format";
import { intervalWords, limitWords } from "../words/wear";
import { type Mark, track } from "./track";
import { useWidth } from "./useWidth";

/** Wear over the distance ridden: readings, limits, chain changes, and what is to be expected. */
export function WearTrackChart({ data }: { data: WearTrack }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const [chosen, setChosen] = useState<string | null>(null);
  const d = useDistance();
  const reading = data.readings.find((r) => r.entry_id === chosen);
  return (
    <div ref={ref} className="w-full">
      {width > 0 && <Drawing data={data} width={width} chosen={chosen} choose={setChosen} d={d} />}
      <p className="min-h-[22px] text-note" aria-live="polite">
        {reading ? (
          <>
            <b className="font-mono">{readWords(reading)}</b> at {whole(d.of(reading.hard_km))} wear {d.unit},{" "}
            {shortDay(reading.taken_at)}, {reading.by}, {reading.instrument}
          </>
        ) : (
          <span className="text-quiet">
            Square: ruler · diamond: caliper · circle: gauge · bar: between two marks
            {data.readings.some((r) => r.spreads) && " · hollow: spreads the rollers"}
          </span>
        )}
      </p>
    </div>
  );
}

/** What a reading on the track says. */
export const readWords = (r: WearTrack["readings"][number]) =>
  r.elongation_pct !== undefined
    ? `${percent(r.elongation_pct)} % ± ${percent(r.sigma_pct ?? 0)}`
    : intervalWords(r.low_pct ?? 0, r.high_pct);

type DrawingProps = {
  data: WearTrack;
  width: number;
  chosen: string | null;
  choose: (id: string | null) => void;
  d: Distance;
};

function Drawing({ data, width, chosen, choose, d }: DrawingProps) {
  const height = Math.round(Math.min(340, Math.max(240, width * 0.45)));
  const t = track(data, width, height, d.of);
  const foot = height - 40;
  const titleLeft = (t.nextCheck ?? 0) > t.left + 130; // or "look again" would lie over it
  return (
    // biome-ignore lint/a11y/useSemanticElements: a chart is no fieldset
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="group"
      aria-label="Wear over distance"
      className="block"
    >
      {t.yTicks.map((k) => (
        <g key={k.label}>
          <line x1={t.left} x2={t.right} y1={k.y} y2={k.y} className="stroke-base-300" />
          <text x={t.left - 7} y={k.y + 4} fontSize="12" textAnchor="end" className="fill-quiet font-mono">
            {k.label}
          </text>
        </g>
      ))}
      {t.xTicks.map((k) => (
        <text key={k.label} x={k.x} y={foot + 18} fontSize="12" textAnchor="middle" className="fill-quiet font-mono">
          {k.label}
        </text>
      ))}
      <text
        x={titleLeft ? t.left : t.right}
        y={height - 5}
        fontSize="12"
        textAnchor={titleLeft ? "start" : "end"}
        className="fill-quiet"
      >
        wear {d.unit} on the bike
      </text>
      <text x={4} y={13} fontSize="12" className="fill-quiet">
        % wear
      </text>
      {t.band && <polygon points={t.band} className="fill-accent" opacity="0.34" />}
      {t.median && <polyline points={t.median} className="fill-none stroke-primary" strokeWidth="2.5" />}
      {t.changes.map((c) => (
        <g key={c.at}>
          <line x1={c.x} x2={c.x} y1={t.top} y2={foot} className="stroke-steel-dark" strokeDasharray="2 4" />
          {c.labelled && (
            <text x={c.x + 5} y={t.top + 11} fontSize="12" className="fill-quiet">
              new chain, {shortDay(c.at)}
            </text>
          )}
        </g>
      ))}
      {t.limit !== null && (
        <Limit
          y={t.limit}
          left={t.left}
          right={t.right}
          words={`${limitWords[data.limit_from ?? "school"]} ${percent(data.limit_pct ?? 0)}`}
          line="stroke-rust"
          ink="fill-due-ink"
        />
      )}
      {t.together !== null && (
        <Limit
          y={t.together}
          left={t.left}
          right={t.right}
          words={`cassette too ${percent(data.together_pct ?? 0)}`}
          line="stroke-error"
          ink="fill-error"
        />
      )}
      <line x1={t.today} x2={t.today} y1={t.top - 4} y2={foot} className="stroke-base-content" strokeWidth="1.2" />
      <text
        x={t.today - 5}
        y={t.top - 8}
        fontSize="12.5"
        fontWeight="600"
        textAnchor="middle"
        className="fill-base-content"
      >
        today
      </text>
      {t.nextCheck !== null && (
        <g>
          <path d={`M${t.nextCheck} ${foot}l-6 10h12z`} className="fill-primary" />
          <text
            x={Math.min(t.nextCheck + 9, t.right - 58)}
            y={foot + 32}
            fontSize="12.5"
            fontWeight="600"
            className="fill-primary"
          >
            look again
          </text>
        </g>
      )}
      {t.marks.map((m) => {
        const r = data.readings.find((one) => one.entry_id === m.id);
        return (
          // biome-ignore lint/a11y/useSemanticElements: an svg cannot hold a button
          <g
            key={m.id}
            role="button"
            tabIndex={0}
            aria-label={r ? `${readWords(r)}, ${shortDay(r.taken_at)}, ${r.instrument}` : ""}
            aria-pressed={m.id === chosen}
            onMouseEnter={() => choose(m.id)}
            onFocus={() => choose(m.id)}
            onClick={() => choose(m.id)}
            className={`cursor-pointer ${m.current ? "text-base-content" : "text-quiet"}`}
          >
            <rect
              x={m.x - 14}
              y={Math.min(m.top, m.y) - 12}
              width="28"
              height={Math.abs(m.bottom - m.top) + 24}
              fill="transparent"
            />
            <Point mark={m} chosen={m.id === chosen} />
          </g>
        );
      })}
    </svg>
  );
}

function Limit(p: { y: number; left: number; right: number; words: string; line: string; ink: string }) {
  return (
    <g>
      <line x1={p.left} x2={p.right} y1={p.y} y2={p.y} className={p.line} strokeWidth="1.8" strokeDasharray="7 5" />
      <text x={p.left + 6} y={p.y - 5} fontSize="12.5" fontWeight="600" className={p.ink}>
        {p.words}
      </text>
    </g>
  );
}

function Point({ mark: m, chosen }: { mark: Mark; chosen: boolean }) {
  const size = chosen ? 7 : 5.2;
  const fill = m.hollow ? "fill-base-100" : "fill-current";
  if (m.shape === "bar")
    return (
      <rect
        x={m.x - size * 0.7}
        y={m.top}
        width={size * 1.4}
        height={Math.max(m.bottom - m.top, 2)}
        rx="2"
        className={m.hollow ? "fill-base-100" : "fill-current"}
        stroke="currentColor"
        strokeWidth="2"
        opacity="0.6"
      />
    );
  const shape = { className: fill, stroke: "currentColor", strokeWidth: 2 };
  return (
    <>
      <line x1={m.x} x2={m.x} y1={m.top} y2={m.bottom} stroke="currentColor" strokeWidth="2" />
      {m.shape === "circle" && <circle cx={m.x} cy={m.y} r={size} {...shape} />}
      {m.shape === "square" && <rect x={m.x - size} y={m.y - size} width={2 * size} height={2 * size} {...shape} />}
      {m.shape === "diamond" && (
        <path
          d={`M${m.x} ${m.y - size * 1.3}l${size * 1.3} ${size * 1.3}l${-size * 1.3} ${size * 1.3}l${-size * 1.3} ${-size * 1.3}z`}
          {...shape}
        />
      )}
    </>
  );
}
