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

/** 5980, 5 980 or 5980,4. What reads as thousands to one and as decimals to another, as 5,980 does, is neither. */
const number = (text: string) => {
  const typed = text.replace(/\s/g, "");
  return /^\d{1,6}([.,](\d{1,2}|\d{4,}))?$/.test(typed) ? Number(typed.replace(",", ".")) : undefined;
};

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
