import * as z from "zod/mini";
import type { Reads } from "./form";
import { minorUnits, typedMoney } from "./money";
import { readNumber } from "./numbers";
import { type Kind, typed, wrongFor } from "./units";
import { readWhen } from "./when";

// Fields as they are typed and what they mean. An empty one means nothing, unless it is needed.

/** A text that is read, or wrong in words. */
export function reading<T>(read: (text: string) => { is: T } | { wrong: string }): Reads<T> {
  return z.pipe(
    z.string(),
    z.transform((text, ctx): T => {
      const r = read(text.trim());
      if ("is" in r) return r.is;
      ctx.issues.push({ code: "custom", message: r.wrong, input: text });
      return z.NEVER;
    }),
  );
}

/** What may be left empty. */
const unlessEmpty = <T>(read: (text: string) => T | undefined, wrong: (text: string) => string) =>
  reading<T | undefined>((text) => {
    if (text === "") return { is: undefined };
    const value = read(text);
    return value === undefined ? { wrong: wrong(text) } : { is: value };
  });

/** What must be there: the same field, where empty is wrong too. */
export const needed = <T>(of: Reads<T | undefined>, words = "This is needed."): Reads<T> =>
  z.pipe(
    of,
    z.transform((value, ctx): T => {
      if (value !== undefined) return value;
      ctx.issues.push({ code: "custom", message: words, input: value });
      return z.NEVER;
    }),
  ) as Reads<T>;

/** What an empty field means. */
export const orElse = <T>(of: Reads<T | undefined>, empty: T): Reads<T> =>
  z.pipe(
    of,
    z.transform((value) => value ?? empty),
  ) as Reads<T>;

/** Words; nothing where none are typed. */
export const words = reading<string | undefined>((text) => ({ is: text || undefined }));

/** Words that the server judges, also where there are none. */
export const line = reading<string>((text) => ({ is: text }));

/** A whole number of things. */
export const whole = unlessEmpty(
  (text) => (/^\d{1,6}$/.test(text) ? Number(text) : undefined),
  (text) => `“${text}” is no count.`,
);

/** A number by the shop's signs. */
export const number = unlessEmpty(readNumber, (text) => `“${text}” is not a number.`);

/** An amount of money, in the currency's smallest unit. */
export const money = (currency: string) =>
  unlessEmpty(
    (text) => minorUnits(text, currency),
    (text) => `“${text}” is no price: write one such as ${typedMoney(4550, currency)}.`,
  );

/** A length, distance, volume, mass or temperature, typed in either unit; `was` is kept where it is typed as it was shown. */
export const measured = (kind: Kind, was?: number, wrong = wrongFor(kind)) =>
  unlessEmpty(
    (text) => (/^[-−]/.test(text) && kind !== "temperature" ? undefined : typed(kind, text, was)),
    () => wrong,
  );

/** A day by the shop's calendar. */
export const day = (past = false) =>
  reading<string | undefined>((text) => {
    const on = readWhen(text, "day", !past);
    return on.is === "none" ? { wrong: on.why } : { is: on.is === "day" ? on.day : undefined };
  });

/** The fields of a form, each by its name. */
export const object = z.object;

export const choice = <T extends string>() => z.custom<T>((v) => typeof v === "string");
export const tick = z.boolean();

type Given<T> = { [K in keyof T]: T[K] | undefined };

/** What several fields mean together, without those that mean nothing: the contract leaves those out. */
export const facts = <T extends object>(fields: Reads<Given<T>>): Reads<T> =>
  z.pipe(
    fields,
    z.transform((all) => Object.fromEntries(Object.entries(all).filter(([, v]) => v !== undefined)) as T),
  );

/** A form that is read as a whole; what is wrong is named by its paths. */
export const together = <Typed, T>(read: (all: Typed) => { is: T; faults: Record<string, string> }): Reads<T> =>
  z.pipe(
    z.custom<Typed>((v) => typeof v === "object"),
    z.transform((all, ctx): T => {
      const { is, faults } = read(all);
      for (const [name, message] of Object.entries(faults))
        ctx.issues.push({ code: "custom", message, path: name.split("."), input: all });
      return is;
    }),
  );
