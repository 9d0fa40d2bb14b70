import { digits, plain } from "./format";
import { readNumber } from "./numbers";
import { type Ways, ways } from "./shop";

// Lengths, distances, temperatures, volumes and masses in the units of the shop. Contract, core and database know mm, km,
// °C, mL and g alone; here, where people read and type, they are converted.

export type Kind = "length" | "distance" | "temperature" | "volume" | "mass";

type Unit = {
  /** As it stands behind a figure. */
  sign: string;
  /** What else people type for it. */
  typed: string[];
  of: (si: number) => number;
  si: (own: number) => number;
  /** Digits behind the decimal sign that a reader has use for. */
  digits: number;
  name: string;
};

const times = (factor: number) => ({ of: (si: number) => si / factor, si: (own: number) => own * factor });

const units = {
  length: {
    mm: { sign: "mm", typed: ["mm"], ...times(1), digits: 1, name: "millimetres" },
    in: { sign: "in", typed: ["in", "inch", "inches", '"', "”", "″"], ...times(25.4), digits: 2, name: "inches" },
  },
  distance: {
    km: { sign: "km", typed: ["km"], ...times(1), digits: 0, name: "kilometres" },
    mi: { sign: "mi", typed: ["mi", "mile", "miles"], ...times(1.609344), digits: 0, name: "miles" },
  },
  temperature: {
    c: { sign: "°C", typed: ["°c", "c", "°"], ...times(1), digits: 0, name: "degrees Celsius" },
    f: {
      sign: "°F",
      typed: ["°f", "f", "°"],
      of: (c: number) => (c * 9) / 5 + 32,
      si: (f: number) => ((f - 32) * 5) / 9,
      digits: 0,
      name: "degrees Fahrenheit",
    },
  },
  volume: {
    ml: { sign: "mL", typed: ["ml"], ...times(1), digits: 1, name: "millilitres" },
    "fl-oz": {
      sign: "fl oz",
      typed: ["fl oz", "floz", "oz"],
      ...times(29.5735295625),
      digits: 2,
      name: "US fluid ounces",
    },
  },
  mass: {
    g: { sign: "g", typed: ["g", "gram", "grams"], ...times(1), digits: 1, name: "grams" },
    oz: { sign: "oz", typed: ["oz", "ounce", "ounces"], ...times(28.349523125), digits: 2, name: "ounces" },
  },
} satisfies { [K in Kind]: Record<string, Unit> };

const all = (kind: Kind): Record<string, Unit> => units[kind];

/** The shop's unit of a kind. */
export function unitOf(kind: Kind, w: Ways = ways()): Unit {
  return all(kind)[w[kind]] as Unit;
}

export const signOf = (kind: Kind) => unitOf(kind).sign;

/** A sixteenth of an inch is what a tape shows: said where it is meant, to a twentieth of a millimetre. */
function sixteenths(mm: number): string | undefined {
  const n = Math.round((mm / 25.4) * 16);
  if (n === 0 || Math.abs((n * 25.4) / 16 - mm) > 0.05) return undefined;
  const whole = Math.floor(n / 16);
  let [top, bottom] = [n % 16, 16];
  while (top > 0 && top % 2 === 0) [top, bottom] = [top / 2, bottom / 2];
  return [whole > 0 ? String(whole) : "", top > 0 ? `${top}/${bottom}` : ""].filter(Boolean).join(" ");
}

/** Of fluid ounces and ounces, what is above ten is said to a tenth. */
const behind = (u: Unit, own: number) =>
  u.digits === 2 && u !== units.length.in && Math.abs(own) >= 10 ? 1 : u.digits;

/** A figure in the shop's unit, without it. Exact is with so many digits as are kept, as a field holds it. */
export function figure(kind: Kind, si: number, most?: number, grouped = true): string {
  const u = unitOf(kind);
  if (u === units.length.in && most === undefined) {
    const tape = sixteenths(si);
    if (tape) return tape;
  }
  const own = u.of(si);
  return grouped ? digits(own, 0, most ?? behind(u, own)) : plain(own, most ?? behind(u, own));
}

/** A figure with its unit: 430 mm, 17 in. */
export const amount = (kind: Kind, si: number, most?: number) => `${figure(kind, si, most)} ${signOf(kind)}`;

/** Fine lengths: to a hundredth of a millimetre, or a thousandth of an inch. */
export const fine = (mm: number, most = 2) => amount("length", mm, ways().length === "in" ? most + 1 : most);

/** What a bath or a day's waste comes to: in litres, or in fluid ounces. */
export const litres = (ml: number) => (ways().volume === "ml" ? `${digits(ml / 1000, 1)} L` : amount("volume", ml, 0));

/** Rags of a day: in kilograms, or in ounces. */
export const kilograms = (g: number) => (ways().mass === "g" ? `${digits(g / 1000, 1)} kg` : amount("mass", g, 0));

/** A length as a reading has it: to a tenth of a millimetre, a hundredth where it has one, or a thousandth of an inch. */
export function read(mm: number): string {
  if (ways().length === "in") return amount("length", mm, 3);
  const tenth = Math.abs(mm * 10 - Math.round(mm * 10)) < 1e-6;
  return `${digits(mm, tenth ? 1 : 2)} mm`;
}

/** Small and large volumes alike: 167 mL, 2.5 L in a shop of litres. */
export const volume = (ml: number) => amount("volume", ml, ml < 10 ? undefined : ways().volume === "ml" ? 0 : 1);

/** An amount of a material in the unit that it is kept in: 167 mL, 4.6 g, 2. */
export function materialAmount(v: number, unit: "ml" | "g" | "piece" | string): string {
  if (unit === "ml" || unit === "g") return amount(unit === "ml" ? "volume" : "mass", v, coarse(v, unit));
  return digits(v, 0, v >= 20 ? 0 : 1);
}

/** Nobody pours a tenth of a millilitre into twenty. */
const coarse = (v: number, unit: "ml" | "g") =>
  v >= 20 && (unit === "ml" ? ways().volume === "ml" : ways().mass === "g") ? 0 : undefined;

/** A range: 8 to 12 mm. */
export const range = (kind: Kind, from: number, to: number, most?: number) =>
  `${figure(kind, from, most)} to ${amount(kind, to, most)}`;

/** How a field holds a value; the same typed back is that value. */
export const held = (kind: Kind, si: number | undefined) =>
  si === undefined ? "" : figure(kind, si, kind === "distance" ? 1 : undefined, false);

/**
 * What was typed, in the unit it says or else the shop's, as it is kept; undefined for what is none. What still stands as
 * the field held it is what was kept, to the last digit.
 */
export function typed(kind: Kind, text: string, was?: number): number | undefined {
  const said = text.trim().toLowerCase();
  if (was !== undefined && said === held(kind, was).toLowerCase()) return was;
  const own = unitOf(kind);
  const others = Object.values(all(kind)).filter((u) => u !== own);
  for (const u of [own, ...others])
    for (const sign of u.typed.toSorted((a, b) => b.length - a.length))
      if (said.endsWith(sign)) {
        const of = readFigure(said.slice(0, -sign.length).trim(), u);
        if (of !== undefined) return kept(u.si(of));
      }
  const of = readFigure(said, own);
  return of === undefined ? undefined : kept(own.si(of));
}

/** To a millionth: finer is the noise of converting. */
const kept = (si: number) => Math.round(si * 1e6) / 1e6;

/** A number, and of inches a fraction too: 17, 16.93, 16 15/16, 16-15/16, 15/16. */
function readFigure(text: string, u: Unit): number | undefined {
  const minus = kindHasSigns(u) && /^[-−]/.test(text);
  const unsigned = minus ? text.slice(1).trim() : text;
  const fraction = /^(?:(\d{1,3})[\s-]+)?(\d{1,2})\/(\d{1,3})$/.exec(unsigned);
  if (fraction && u === units.length.in) {
    const [, whole = "0", top = "0", bottom = "1"] = fraction;
    return Number(bottom) === 0 ? undefined : Number(whole) + Number(top) / Number(bottom);
  }
  // Nobody reads an odometer to the metre: 4.210 is four thousand to one and four to another.
  const doubt = kindOfDistance(u) && /^\d{1,3}[.,]\d{3}$/.test(unsigned) && (readNumber(unsigned) ?? 0) < 1000;
  const n = doubt ? undefined : readNumber(unsigned);
  return n === undefined ? undefined : minus ? -n : n;
}

const kindOfDistance = (u: Unit) => u === units.distance.km || u === units.distance.mi;
const kindHasSigns = (u: Unit) => u === units.temperature.c || u === units.temperature.f;

/** What a typed value is understood as, in full: said below a field where it was not typed in the shop's own way. */
export function understood(kind: Kind, text: string, was?: number): string | undefined {
  const si = typed(kind, text, was);
  if (si === undefined || text.trim() === "") return undefined;
  if (readNumber(text.trim()) !== undefined) return undefined;
  const said = amount(kind, si, kind === "length" ? undefined : 1);
  return text.trim() === said ? undefined : `= ${said}`;
}

/** What to say of what is no such value. */
export const wrongFor = (kind: Kind, w: Ways = ways()): string =>
  ({
    length: w.length === "in" ? "Type a length, such as 17 in or 16 15/16." : "Type a length, such as 430 mm.",
    distance: `Type whole ${unitOf("distance", w).name}, such as ${w.distance === "mi" ? "3715" : "5980"}.`,
    temperature: `Type a temperature, such as ${w.temperature === "f" ? "200 °F" : "95 °C"}.`,
    volume: `Type an amount in ${unitOf("volume", w).name}, such as ${w.volume === "ml" ? "500" : "17"}.`,
    mass: `Type an amount in ${unitOf("mass", w).name}, such as ${w.mass === "g" ? "700" : "25"}.`,
  })[kind];

const signs: Record<string, Kind> = { mm: "length", km: "distance", "°C": "temperature", mL: "volume", g: "mass" };
const quantity = /(\d+(?:\.\d+)?)(?:( to | and |–)(\d+(?:\.\d+)?))? ?(mm|km|°C|mL|g)(?![\w/²]| to a litre)/g;

/** The size of a hex key is its name: bolts are metric everywhere. */
const hexKey = /\bhex (?:[\d, ]|and)*$/i;

/** A text of the catalogue or the server, which knows mm, km, °C, mL and g alone, in the shop's units. */
export function inShopUnits(text: string): string {
  return text.replace(quantity, (as: string, ...found: unknown[]) => {
    const [a, between, b, sign] = found as [string, string | undefined, string | undefined, string];
    const before = text.slice(0, found[4] as number);
    const kind = signs[sign];
    if (!kind || hexKey.test(before)) return as;
    if (all(kind)[ways()[kind]]?.sign === sign) return localised(as, a, b);
    const most = kind === "length" ? 2 : undefined;
    const from = figure(kind, Number(a), most);
    return b ? `${from}${between}${amount(kind, Number(b), most)}` : `${from} ${signOf(kind)}`;
  });
}

/** A quantity that stays in its unit, with the shop's decimal sign. */
const localised = (as: string, ...figures: (string | undefined)[]) =>
  figures.reduce<string>((s, f) => (f?.includes(".") ? s.replace(f, digits(Number(f), 0, 6)) : s), as);

/** Rain of a day: mm, or hundredths of an inch. */
export const rain = (mm: number) => amount("length", mm, ways().length === "in" ? 2 : 1);
