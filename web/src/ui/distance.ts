import { useSession } from "./frame";

/** Distances as this shop says them. The server knows kilometres alone. */
export type Distance = {
  unit: "km" | "mi";
  /** In the shop's unit. */
  of: (km: number) => number;
  /** What was typed, in km; undefined for what is no distance. */
  typed: (text: string) => number | undefined;
  /** What to say of what is none. */
  wrong: string;
};

const kmPerMile = 1.609344;

const number = (text: string) =>
  /^\d{1,6}([.,]\d+)?$/.test(text.trim()) ? Number(text.trim().replace(",", ".")) : undefined;

export const kilometres: Distance = {
  unit: "km",
  of: (km) => km,
  typed: number,
  wrong: "Type whole kilometres, such as 5980.",
};

export const miles: Distance = {
  unit: "mi",
  of: (km) => km / kmPerMile,
  typed: (text) => {
    const typed = number(text);
    return typed === undefined ? undefined : typed * kmPerMile;
  },
  wrong: "Type whole miles, such as 3715.",
};

export const distanceIn = (unit: "km" | "mi") => (unit === "mi" ? miles : kilometres);

export const useDistance = () => distanceIn(useSession().shop.distance_unit);
