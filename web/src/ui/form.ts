import { type ChangeEvent, useState } from "react";
import * as z from "zod/mini";
import { idempotencyKey } from "../api/client";
import { useKept } from "./kept";
import { faultAt, namesFields } from "./sending";

z.config({ jitless: true }); // the page may run no code that is made from text

/** What a form reads of what is typed into it: what is wrong has the path that the contract gives the field. */
export type Reads<Read> = z.ZodMiniType<Read>;

type Kept<Typed> = { typed: Typed; version: number; key: string };

const path = (parts: readonly PropertyKey[]) =>
  parts.map((p, i) => (typeof p === "number" ? `[${p}]` : `${i ? "." : ""}${String(p)}`)).join("");

/**
 * A form: what is typed, as text, and what it means. What is wrong with it stands at its field, whether the page or the
 * server says so, and goes when that field is changed. Where it has a slot, what is typed outlives a reload, with the
 * version it is over and the key of its sending, so that it is still written once.
 */
export function useForm<Typed extends object, Read>(of: {
  start: Typed;
  reads: Reads<Read>;
  /** The write that it is sent by. */
  by: { error: unknown; isPending: boolean };
  /** Where the contract has these fields: "facts". */
  at?: string;
  version?: number;
  slot?: string;
  fits?: (typed: unknown) => typed is Typed;
}) {
  const { start, reads, by, at = "", version = 0, slot } = of;
  const fits = of.fits ?? ((t: unknown): t is Typed => typeof t === "object" && t !== null);
  const [kept, setKept] = useKept<Kept<Typed>>(
    slot,
    { typed: start, version, key: idempotencyKey() },
    (v): v is Kept<Typed> => {
      const k = v as Kept<Typed> | null;
      return typeof k === "object" && k !== null && typeof k.version === "number" && !!k.key && fits(k.typed);
    },
  );
  const [wrong, setWrong] = useState<Record<string, string>>({});
  // What the server said of a field holds no longer once the field is changed.
  const [changed, setChanged] = useState<{ since: unknown; names: string[] }>({ since: null, names: [] });
  const full = (name: string) => (at && name ? `${at}.${name}` : at || name);
  const set = (part: Partial<Typed>) => {
    setKept((k) => ({ ...k, typed: { ...k.typed, ...part } }));
    const names = Object.keys(part);
    setWrong((faults) => Object.fromEntries(Object.entries(faults).filter(([name]) => !names.includes(name))));
    setChanged((c) => ({ since: by.error, names: c.since === by.error ? [...c.names, ...names] : names }));
  };
  return {
    typed: kept.typed,
    version: kept.version,
    key: kept.key,
    set,
    /** A text field of that name. */
    text: <Name extends keyof Typed & string>(name: Name) => ({
      name,
      value: String(kept.typed[name]),
      onChange: (e: ChangeEvent<HTMLInputElement | HTMLTextAreaElement | HTMLSelectElement>) =>
        set({ [name]: e.target.value } as unknown as Partial<Typed>),
    }),
    /** What is wrong at a path of the form. */
    fault: (name: string) =>
      wrong[name] ??
      (changed.since === by.error && changed.names.includes(name)
        ? undefined
        : (faultAt(by.error, full(name)) ?? faultAt(by.error, name))),
    /** Whether anything is wrong by the page's own reading. */
    isWrong: Object.keys(wrong).length > 0,
    /** Why it was not sent, where no field says it. */
    failure: by.error && !namesFields(by.error) ? by.error : undefined,
    /** Reads what is typed and goes on with what it means; with `more`, what only the screen knows to be wrong. */
    submit: (send: (read: Read, key: string) => void, more: Record<string, string | undefined> = {}) => {
      const read = z.safeParse(reads, kept.typed);
      const faults: Record<string, string> = {};
      for (const i of read.error?.issues ?? []) faults[path(i.path)] ??= i.message;
      for (const [name, fault] of Object.entries(more)) if (fault) faults[name] = fault;
      setWrong(faults);
      if (read.success && Object.keys(faults).length === 0 && !by.isPending) send(read.data, kept.key);
    },
    /** From now on over that version: somebody else's was seen. */
    over: (version: number) => setKept((k) => ({ ...k, version })),
    /** Sent with other content it is another write. */
    renew: () => setKept((k) => ({ ...k, key: idempotencyKey() })),
    /** What is typed now that it is saved as that version. */
    saved: (typed: (now: Typed) => Typed, version: number) =>
      setKept((k) => ({ typed: typed(k.typed), version, key: idempotencyKey() })),
    /** Begins anew. */
    restart: (typed: Typed, over = kept.version) => {
      setKept({ typed, version: over, key: idempotencyKey() });
      setWrong({});
    },
  };
}

/** A form as its parts see it. */
export type FormOf<Typed extends object> = Pick<
  ReturnType<typeof useForm<Typed, unknown>>,
  "typed" | "set" | "text" | "fault"
>;
