import { useId } from "react";
import type { Strip } from "../api/client";
import { read as length, signOf } from "../ui/units";
import { Chain } from "./Chain";
import { type Creep, creep, spread } from "./creep";
import { useWidth } from "./useWidth";

/**
 * The creep strip: a chain along a ruler, its last pin past the mark by the true growth, and that
 * pin magnified beside the limits.
 */
export function CreepStrip({ strip, compact = false }: { strip: Strip; compact?: boolean }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  return (
    <div ref={ref} className="w-full">
      {width > 0 && <Drawing strip={strip} width={width} compact={compact} />}
    </div>
  );
}

function describe(s: Strip): string {
  const read =
    s.mean_mm !== undefined
      ? `${length(s.mean_mm)} read`
      : s.low_mm !== undefined
        ? `read between ${length(s.low_mm)} and ${s.high_mm === undefined ? "more" : length(s.high_mm)}`
        : "nothing read yet";
  return `${s.links} links on the rule: new ${length(s.new_mm)}, ${read}, limit ${length(s.limit_mm)}, cassette too ${length(s.together_mm)}.`;
}

function Drawing({ strip, width, compact }: { strip: Strip; width: number; compact: boolean }) {
  const c = creep(strip, width);
  const id = useId();
  const chainY = 20;
  const rulerY = 36;
  const lensTop = 92;
  const lensHeight = compact ? 118 : 220;
  const rulerHeight = 58;
  const lensBase = lensTop + lensHeight - rulerHeight;
  const right = width - 14;
  const lastPin = c.pins.at(-1) ?? 0;
  const [boxLeft, boxRight] = [Math.min(c.newOnStrip, lastPin) - 13, Math.max(c.newOnStrip, lastPin) + 13];
  return (
    <svg
      width={width}
      height={lensTop + lensHeight + 2}
      viewBox={`0 0 ${width} ${lensTop + lensHeight + 2}`}
      role="img"
      aria-label={describe(strip)}
      className="block"
    >
      <defs>
        <clipPath id={id}>
          <rect x="14" y={lensTop} width={right - 14} height={lensHeight} rx="4" />
        </clipPath>
      </defs>
      {/* the whole span, to scale */}
      <rect x="2" y={rulerY} width={width - 4} height="32" rx="2" className="fill-paper stroke-base-300" />
      {c.ticks.map((t) => (
        <g key={t.x}>
          <line x1={t.x} x2={t.x} y1={rulerY} y2={rulerY + (t.label ? 12 : 7)} className="stroke-quiet" />
          {t.label && <Label x={t.x} y={rulerY + 25} text={t.label} />}
        </g>
      ))}
      <Chain pins={c.pins} y={chainY} />
      <line x1={c.newOnStrip} x2={c.newOnStrip} y1={6} y2={rulerY} className="stroke-base-content" strokeWidth="1.2" />
      <rect
        x={boxLeft}
        y="5"
        width={boxRight - boxLeft}
        height="64"
        rx="3"
        className="fill-none stroke-primary"
        strokeWidth="2"
      />
      <path
        d={`M${boxLeft} 69L14 ${lensTop}M${boxRight} 69L${right} ${lensTop}`}
        className="stroke-primary"
        strokeDasharray="3 3"
      />
      {/* the last pin, magnified */}
      <g clipPath={`url(#${id})`}>
        <rect x="14" y={lensTop} width={right - 14} height={lensHeight} className="fill-base-100" />
        {c.lensMean !== null && (
          <circle
            cx={c.lensMean}
            cy={(lensTop + lensBase) / 2}
            r={c.pinRadius}
            className="fill-steel stroke-steel-dark"
            opacity="0.35"
            strokeWidth="3"
          />
        )}
        <Band c={c} top={lensTop + 26} base={lensBase} />
        <rect x="14" y={lensBase} width={right - 14} height={rulerHeight} className="fill-paper stroke-base-300" />
        {c.lensTicks.map((t) => (
          <g key={t.x}>
            <line x1={t.x} x2={t.x} y1={lensBase} y2={lensBase + (t.label ? 14 : 8)} className="stroke-quiet" />
            {t.label && <Label x={t.x} y={lensBase + 27} text={t.label} />}
          </g>
        ))}
        <Lines c={c} top={lensTop + 26} base={lensBase} height={rulerHeight} left={14} right={right} />
        <Reading c={c} base={lensBase} top={lensTop + 26} numbers={!compact} />
      </g>
      <rect
        x="14"
        y={lensTop}
        width={right - 14}
        height={lensHeight}
        rx="4"
        className="fill-none stroke-primary"
        strokeWidth="2"
      />
      <text x="24" y={lensTop + 18} fontSize="13" fontWeight="600" className="fill-primary">
        Last pin, {c.times} times larger, {signOf("length")}
      </text>
    </svg>
  );
}

function Label({ x, y, text }: { x: number; y: number; text: string }) {
  return (
    <text x={x} y={y} fontSize="11.5" textAnchor="middle" className="fill-quiet font-mono">
      {text}
    </text>
  );
}

/** Inner and outer links in turn, plates shaped like a figure of eight. */

/** What the reading leaves open: one standard error to each side, or the interval. */
function Band({ c, top, base }: { c: Creep; top: number; base: number }) {
  if (!c.lensBand) return null;
  const [from, to] = c.lensBand;
  return (
    <rect
      x={from}
      y={top}
      width={Math.max(to - from, 1)}
      height={base - top}
      className="fill-accent"
      opacity={c.lensMean === null ? 0.5 : 0.42}
    />
  );
}

function Lines(p: { c: Creep; top: number; base: number; height: number; left: number; right: number }) {
  const { c, base, top } = p;
  const together = Math.abs(c.lensTogether - c.lensLimit) > 1;
  const lines = [
    { x: c.lensNew, text: "new", width: 34, line: "stroke-base-content", ink: "fill-base-content", dash: undefined },
    {
      x: c.lensLimit,
      text: together ? "limit" : "limit, cassette",
      width: together ? 40 : 104,
      line: "stroke-rust",
      ink: "fill-due-ink",
      dash: "6 4",
    },
    ...(together
      ? [{ x: c.lensTogether, text: "cassette too", width: 92, line: "stroke-error", ink: "fill-error", dash: "6 4" }]
      : []),
  ];
  const xs = spread(lines, p.left + 4, p.right - 4);
  return (
    <>
      {lines.map((l, i) => (
        <g key={l.text}>
          <line x1={l.x} x2={l.x} y1={top} y2={base + 10} className={l.line} strokeWidth="2" strokeDasharray={l.dash} />
          <text x={xs[i]} y={base + p.height - 9} fontSize="13" fontWeight="600" textAnchor="middle" className={l.ink}>
            {l.text}
          </text>
        </g>
      ))}
    </>
  );
}

function Reading({ c, base, top, numbers }: { c: Creep; base: number; top: number; numbers: boolean }) {
  return (
    <>
      {c.lensPlaces.length > 1 &&
        c.lensPlaces.map((p, i) => (
          <g key={p.place}>
            <line x1={p.x} x2={p.x} y1={base - 16} y2={base} className="stroke-base-content" strokeWidth="1.5" />
            {numbers && (
              <text
                x={p.x}
                y={base - 20 - (i % 2) * 13}
                fontSize="12"
                textAnchor="middle"
                className="fill-base-content font-mono"
              >
                {p.place}
              </text>
            )}
          </g>
        ))}
      {c.lensMean !== null && (
        <line x1={c.lensMean} x2={c.lensMean} y1={top} y2={base} className="stroke-base-content" strokeWidth="3" />
      )}
      {c.openAbove && c.lensBand && (
        <path
          d={`M${c.lensBand[1] - 26} ${(top + base) / 2}h16m-7 -7l8 7l-8 7`}
          className="fill-none stroke-base-content"
          strokeWidth="2.5"
        />
      )}
    </>
  );
}
