import { builtOn, changed, isSealed, keptNow, locked, read, signedInNow } from "./queue";
import { drain } from "./sending";
import * as shelf from "./shelf";

// What a person decides about what is kept: to take it back, to let it go, to send it after all.

/** Takes back what was not sent yet, with all that is built on it. */
export async function withdraw(which: string[]): Promise<void> {
  const gone = builtOn(which);
  await locked(async () => {
    await read();
    await shelf.takeOff(
      keptNow()
        .filter((k) => gone.has(k.key))
        .map((k) => k.order),
    );
  });
  await changed();
  void drain();
}

/** Drops one that was refused: what is built on it goes without it. */
export async function drop(which: string[]): Promise<void> {
  await locked(async () => {
    await read();
    for (const k of keptNow().filter((o) => !which.includes(o.key) && o.needs.some((n) => which.includes(n)))) {
      const needs = k.needs.filter((n) => !which.includes(n));
      const { follows, ...rest } = k;
      await shelf.takeOff([k.order]);
      await shelf.keepAt({ ...rest, needs, ...(follows && !which.includes(follows) ? { follows } : {}) });
    }
    await shelf.takeOff(
      keptNow()
        .filter((k) => which.includes(k.key))
        .map((k) => k.order),
    );
  });
  await changed();
  void drain();
}

/** Sends one that was refused, or that is old, once more: a person looked at it. */
export async function sendAgain(which: string[]): Promise<void> {
  for (const k of keptNow().filter((o) => which.includes(o.key)))
    await shelf.change(k.order, { refused: undefined, lookedOver: true });
  await changed();
  void drain();
}

/** Somebody signed in with their PIN: what they wrote here is sent now. */
export async function unseal(person: string): Promise<void> {
  signedInNow(person);
  await read().catch(() => {});
  for (const k of keptNow().filter((o) => o.author.id === person && isSealed(o)))
    await shelf.change(k.order, { unasked: false, sealed: false });
  await changed().catch(() => {});
  void drain();
}
