import type { WearAnswer } from "../api/client";
import { percent } from "../ui/format";
import { useWidth } from "./useWidth";

/** Where the true wear may lie, beside the limits: two standard errors to each side. */
export function ChanceBar({ wear }: { wear: WearAnswer }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const e = wear.elongation_pct;
  const s = wear.sigma_pct ?? 0;
  const low = e !== undefined ? e - 2 * s : (wear.interval?.low_pct ?? 0);
  const high = e !== undefined ? e + 2 * s : (wear.interval?.high_pct ?? null);
  const end = Math.max(wear.together_pct * 1.25, high ?? wear.together_pct * 1.25, low + 0.2);
  const start = Math.min(0, low);
  const x = (p: number) => 4 + ((p - start) / (end - start)) * (width - 8);
  const to = x(high ?? end);
  return (
    <div ref={ref}>
      {width > 0 && (
        <svg
          width={width}
          height="44"
          role="img"
          aria-label={`Between ${percent(low)} and ${high === null ? "more" : percent(high)} %; limit ${percent(wear.limit_pct)}, cassette too ${percent(wear.together_pct)}`}
        >
          <rect x="4" y="10" width={width - 8} height="8" rx="4" className="fill-base-300" />
          <rect x={x(low)} y="10" width={Math.max(to - x(low), 2)} height="8" className="fill-accent" />
          {e !== undefined && (
            <line x1={x(e)} x2={x(e)} y1="3" y2="25" className="stroke-base-content" strokeWidth="3" />
          )}
          <line
            x1={x(wear.limit_pct)}
            x2={x(wear.limit_pct)}
            y1="1"
            y2="28"
            className="stroke-rust"
            strokeWidth="2"
            strokeDasharray="4 3"
          />
          <line
            x1={x(wear.together_pct)}
            x2={x(wear.together_pct)}
            y1="1"
            y2="28"
            className="stroke-error"
            strokeWidth="2"
            strokeDasharray="4 3"
          />
          <text x={x(wear.limit_pct)} y="41" fontSize="12" textAnchor="middle" className="fill-due-ink font-mono">
            {percent(wear.limit_pct)}
          </text>
          {x(wear.together_pct) - x(wear.limit_pct) > 32 && (
            <text x={x(wear.together_pct)} y="41" fontSize="12" textAnchor="middle" className="fill-error font-mono">
              {percent(wear.together_pct)}
            </text>
          )}
        </svg>
      )}
    </div>
  );
}
