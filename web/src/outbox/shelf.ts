import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import type { Kept } from "./kinds";

// What this device keeps: what it could not send yet, and what it shows without a network. Both lie in one database of the
// browser, which every tab has open.

interface Shelf extends DBSchema {
  unsent: { key: number; value: Kept; indexes: { key: string } };
  shown: { key: string; value: unknown };
}

let opened: Promise<IDBPDatabase<Shelf>> | undefined;

async function shelf(): Promise<IDBPDatabase<Shelf>> {
  opened ??= openDB<Shelf>("pony", 1, {
    upgrade(db) {
      db.createObjectStore("unsent", { keyPath: "order", autoIncrement: true }).createIndex("key", "key", {
        unique: true,
      });
      db.createObjectStore("shown");
    },
    // Another version of the page wants to change it: this one lets go, and opens it anew when it needs it.
    blocking: (_, __, event) => {
      (event.target as IDBDatabase).close();
      opened = undefined;
    },
    terminated: () => {
      opened = undefined;
    },
  }).catch((e: unknown) => {
    opened = undefined;
    throw e;
  });
  return opened;
}

/** What this device keeps and did not send, oldest first. */
export const unsent = async (): Promise<Kept[]> => (await shelf()).getAll("unsent");

/** Keeps something to be sent; it is there once this is answered, whatever becomes of the page. */
export async function keep(what: Omit<Kept, "order">): Promise<Kept> {
  const db = await shelf();
  const tx = db.transaction("unsent", "readwrite", { durability: "strict" });
  const [order] = await Promise.all([tx.store.add(what as Kept), tx.done]);
  return { ...what, order };
}

/** Changes what is kept of one, if it is still there. */
export async function change(order: number, to: Partial<Kept>): Promise<void> {
  const tx = (await shelf()).transaction("unsent", "readwrite");
  const now = await tx.store.get(order);
  if (now) await tx.store.put({ ...now, ...to });
  await tx.done;
}

/** Takes those off that were sent, or that a person dropped. */
export async function takeOff(orders: number[]): Promise<void> {
  const tx = (await shelf()).transaction("unsent", "readwrite");
  await Promise.all([...orders.map((o) => tx.store.delete(o)), tx.done]);
}

/** Something that is shown without a network. */
export const shown = async <T>(name: string): Promise<T | undefined> =>
  (await shelf()).get("shown", name) as Promise<T | undefined>;

export async function show(name: string, value: unknown): Promise<void> {
  await (await shelf()).put("shown", value, name);
}

/** Takes off all that is shown of the shop; what is unsent stays. */
export async function forgetShown(): Promise<void> {
  await (await shelf()).clear("shown");
}

/** Puts one back in its place. */
export async function keepAt(what: Kept): Promise<void> {
  await (await shelf()).put("unsent", what);
}
