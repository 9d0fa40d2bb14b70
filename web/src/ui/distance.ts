import { useSession } from "./frame";
import { type Ways, ways } from "./shop";
import { type Kind, typed, unitOf, wrongFor } from "./units";

/** Distances as this shop says them. The server knows kilometres alone. */
export type Distance = {
  unit: "km" | "mi";
  /** In the shop's unit. */
  of: (km: number) => number;
  /** What was typed, in km; undefined for what is no distance. */
  typed: (text: string, was?: number) => number | undefined;
  /** What to say of what is none. */
  wrong: string;
};

const kind: Kind = "distance";

export function distanceIn(unit: Ways["distance"]): Distance {
  const w = { ...ways(), distance: unit };
  return {
    unit,
    of: unitOf(kind, w).of,
    typed: (text, was) => (/^\s*[-−]/.test(text) ? undefined : typed(kind, text, was)),
    wrong: wrongFor(kind, w),
  };
}

export const useDistance = () => distanceIn(useSession().shop.distance_unit);
