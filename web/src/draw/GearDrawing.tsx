import type { GearPath, GearState } from "../api/client";
import { Chain } from "./Chain";
import { gear } from "./gear";
import { useWidth } from "./useWidth";

/** One gear to scale: wheels, cage, and the chain's true way with its links. */
export function GearDrawing({ path, state }: { path: GearPath; state: GearState["state"] | undefined }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  return (
    <div ref={ref} className="w-full">
      {width > 0 && <Drawing path={path} state={state ?? "ok"} width={width} />}
    </div>
  );
}

const chainColour = { ok: "stroke-pin", tight: "stroke-error", slack: "stroke-rust" } as const;

function Drawing({ path, state, width }: { path: GearPath; state: GearState["state"]; width: number }) {
  const g = gear(path, width, Math.max(230, Math.min(380, width * 0.62)));
  const thick = Math.max(5, 7.4 * g.scale);
  return (
    <svg
      width={width}
      height={g.height}
      viewBox={`0 0 ${width} ${g.height}`}
      role="img"
      aria-label={`Chainring ${path.ring}, sprocket ${path.sprocket}, cage at ${Math.round(path.cage_deg)} degrees`}
      className="block"
    >
      <path d={g.swing} fill="none" className="stroke-accent" strokeWidth="5" opacity="0.7" />
      {g.idle.map((w) => (
        <circle key={w.key} cx={w.x} cy={w.y} r={w.r} fill="none" className="stroke-steel" strokeDasharray="2 3" />
      ))}
      {g.wheels.map((w) => (
        <g key={w.name}>
          <polygon
            points={w.teeth}
            className={
              w.name.endsWith("pulley") ? "fill-base-100 stroke-steel-dark" : "fill-steel/45 stroke-steel-dark"
            }
            strokeLinejoin="round"
          />
        </g>
      ))}
      <line {...g.cage} className="stroke-steel-dark" strokeWidth={Math.max(6, 11 * g.scale)} strokeLinecap="round" />
      {g.wheels.map((w) => (
        <circle key={w.name} cx={w.x} cy={w.y} r={w.hole} className="fill-base-100 stroke-steel-dark" />
      ))}
      <path d={g.chain} fill="none" className={chainColour[state]} strokeWidth={thick} />
      <path
        d={g.chain}
        fill="none"
        className="stroke-steel"
        strokeWidth={thick * 0.44}
        strokeDasharray={`${g.link * 0.86} ${g.link * 1.14}`}
      />
      <circle cx={g.at.x} cy={g.at.y} r="4" className="fill-primary" />
    </svg>
  );
}

/** The links round the cut: what stays, the pin to press out, what comes off. */
export function CutDrawing({ after, lastInner }: { after: number; lastInner: boolean }) {
  const stay = 6;
  const off = 3;
  const y = 32;
  const x = (i: number) => 16 + i * 30;
  // The last that stays is an inner or an outer link, and they stand by turns before it.
  const outerFirst = (stay % 2 === 1) !== lastInner;
  return (
    <svg
      width="100%"
      viewBox="0 0 304 78"
      role="img"
      aria-label={`Count ${after} links and press out the pin after them`}
      className="block max-w-[360px]"
    >
      <Chain
        pins={Array.from({ length: stay + off + 1 }, (_, i) => x(i))}
        y={y}
        outerFirst={outerFirst}
        fadedFrom={stay}
      />
      <line x1={x(stay)} x2={x(stay)} y1="6" y2="58" className="stroke-error" strokeWidth="2.4" strokeDasharray="5 4" />
      <text x={x(stay)} y="73" fontSize="13" fontWeight="600" textAnchor="middle" className="fill-error">
        press this pin out
      </text>
      <text x={(x(stay - 1) + x(stay)) / 2} y="15" fontSize="12" textAnchor="middle" className="fill-quiet font-mono">
        {after}
      </text>
    </svg>
  );
}
