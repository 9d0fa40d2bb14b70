import { volume } from "../ui/units";
import { layers, type Poured } from "./vessel";

const height = 150;
const width = 92;

/** A measuring vessel to scale: what is in it already, what product and what water to add. */
export function Vessel({ poured, holds }: { poured: Poured; holds: number }) {
  const { marks, parts, top } = layers(poured, holds, height);
  const said = parts.map((p) => `${volume(p.ml)} ${p.what}`).join(", ");
  return (
    <svg
      width={width + 44}
      height={height + 16}
      viewBox={`0 -10 ${width + 44} ${height + 16}`}
      role="img"
      aria-label={`A vessel with ${said}`}
      className="shrink-0"
    >
      {parts.map((p) => (
        <rect key={p.what} x="3" y={p.y} width={width - 6} height={p.h} className={looks[p.what]} />
      ))}
      {parts.some((p) => p.what === "there") && (
        <line
          x1="3"
          x2={width - 3}
          y1={top.there}
          y2={top.there}
          className="stroke-base-content"
          strokeDasharray="4 3"
        />
      )}
      <path
        d={`M2 0V${height - 8}a8 8 0 0 0 8 8H${width - 10}a8 8 0 0 0 8 -8V0`}
        fill="none"
        className="stroke-steel-dark"
        strokeWidth="3"
        strokeLinecap="round"
      />
      {marks.map((m) => (
        <g key={m.ml}>
          <line x1={width - 16} x2={width - 3} y1={m.y} y2={m.y} className="stroke-base-content" strokeWidth="1.5" />
          <text x={width + 6} y={m.y + 4} className="fill-quiet font-mono text-mark">
            {m.says}
          </text>
        </g>
      ))}
    </svg>
  );
}

const looks = {
  there: "fill-steel",
  product: "fill-accent",
  water: "fill-info/35",
} as const;
