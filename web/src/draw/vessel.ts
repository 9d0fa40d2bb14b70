import { unitOf } from "../ui/units";

/** What a vessel holds, from the bottom: what was there, then the water, then the product. Millilitres. */
export type Poured = { there: number; water: number; product: number };

type Layer = { what: keyof Poured; ml: number; y: number; h: number };

/** Steps between marks that a person reads easily; the first that gives at most six marks is taken. */
const steps = [1, 2, 5];

function step(holds: number): number {
  for (let ten = 1; ; ten *= 10) {
    const fits = steps.find((s) => holds / (s * ten) <= 6);
    if (fits) return fits * ten;
  }
}

/** The layers of a vessel that holds so much, drawn so high, and the marks on its side. */
export function layers(poured: Poured, holds: number, height: number) {
  const all = poured.there + poured.water + poured.product;
  const full = Math.max(holds, all) / 0.94; // a little room above
  const y = (ml: number) => height - (ml / full) * height;
  const parts: Layer[] = [];
  let below = 0;
  for (const what of ["there", "water", "product"] as const) {
    const ml = poured[what];
    if (ml > 0) parts.push({ what, ml, y: y(below + ml), h: (ml / full) * height });
    below += ml;
  }
  const own = unitOf("volume").si(1); // in mL
  const by = step(full / own);
  const marks = Array.from({ length: Math.floor(full / own / by) }, (_, i) => {
    const says = (i + 1) * by;
    return { ml: says * own, says, y: y(says * own) };
  });
  return { parts, marks, top: { there: y(poured.there), all: y(all) } };
}
