import { useId } from "react";
import type { State } from "../api/client";
import { stateWords } from "../words/due";

const colour: Record<State, string> = {
  fresh: "text-success",
  soon: "text-warning",
  due: "text-rust",
  overdue: "text-error",
};

// The outline of a chain's outer plate, pin centres at 12 and 32, on a field of 44 by 24.
const outline =
  "M12 3a9 9 0 1 0 0 18c6 0 5 -4.5 10 -4.500s4 4.5 10 4.500a9 9 0 1 0 0 -18c-6 0 -5 4.5 -10 4.500s-4 -4.5 -10 -4.500z";

/**
 * The state sign: a chain plate, open when fresh, half filled when soon, filled when due, and
 * filled and cracked across the waist when overdue. Its shape says it; colour only helps.
 */
export function Plate({ state, size = 22 }: { state: State; size?: number }) {
  const id = useId();
  const filled = state === "due" || state === "overdue";
  return (
    <svg
      width={(size * 44) / 24}
      height={size}
      viewBox="0 0 44 24"
      role="img"
      aria-label={stateWords[state]}
      className={`${colour[state]} shrink-0`}
    >
      <clipPath id={id}>
        <path d={outline} />
      </clipPath>
      <path d={outline} className={filled ? "fill-current" : "fill-base-100"} stroke="currentColor" strokeWidth="1.8" />
      {state === "soon" && <rect x="0" y="12" width="44" height="12" fill="currentColor" clipPath={`url(#${id})`} />}
      {state === "overdue" && (
        <path d="M19.5 5l3.5 5.5 -3 3 3.5 6" className="stroke-base-100" strokeWidth="2.6" fill="none" />
      )}
      <circle cx="12" cy="12" r="2.6" className="fill-base-100" stroke="currentColor" strokeWidth="1.2" />
      <circle cx="32" cy="12" r="2.6" className="fill-base-100" stroke="currentColor" strokeWidth="1.2" />
    </svg>
  );
}
