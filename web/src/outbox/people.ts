import type { QueryClient } from "@tanstack/react-query";
import { api, ask, type Person, type Session, Unreachable } from "../api/client";
import { keys } from "../api/keys";
import { aroundSession } from "../api/queries";
import { behindBy, settle, settleBehind, waysOf } from "../ui/shop";
import { unsentOf } from "./queue";
import { heardBefore, reachNow } from "./reach";
import * as shelf from "./shelf";

// Who may work here without a network: whoever signed in on this device with a connection before. No PIN is asked then: what
// a device could hold a PIN against, somebody who has the device could guess on it. What they write is sent once they signed
// in with their PIN.

const people = "people";
type Known = Record<string, Session>;

/** Keeps what the page needs to know of somebody who signed in here, and what time it is in the shop. */
async function rememberPerson(session: Session): Promise<void> {
  const all = (await shelf.shown<Known>(people)) ?? {};
  await shelf.show(people, { ...all, [session.person.id]: session });
  await shelf.show("behind", behindBy());
}

/** The people who signed in here before. */
export async function knownPeople(): Promise<Person[]> {
  const all = (await shelf.shown<Known>(people).catch(() => undefined)) ?? {};
  return Object.values(all).map((s) => s.person);
}

const notAsked = "pony.no-pin";
const toSignOut = "pony.signed-out";

function flag(name: string, value: string | null): void {
  try {
    if (value === null) localStorage.removeItem(name);
    else localStorage.setItem(name, value);
  } catch {
    // nothing is kept here: nobody works here without a network either
  }
}

function flagged(name: string): string | undefined {
  try {
    return localStorage.getItem(name) ?? undefined;
  } catch {
    return undefined;
  }
}

/** Whoever works here without having been asked for a PIN; nobody where a PIN was asked. */
export const withoutPIN = (): string | undefined => flagged(notAsked);

/** Lets somebody work here while there is no network. */
export async function workWithoutPIN(client: QueryClient, person: string): Promise<boolean> {
  const session = (await shelf.shown<Known>(people))?.[person];
  if (session === undefined || reachNow().reached) return false;
  flag(notAsked, person);
  client.setQueryData(keys.session, session);
  return true;
}

/** Somebody signed in with their PIN. */
export function signedIn(session: Session): void {
  flag(notAsked, null);
  flag(toSignOut, null);
  void rememberPerson(session).catch(() => {});
  void navigator.storage?.persist?.().catch(() => {}); // it keeps it as long as it has room
}

/** Signs whoever is here out; without a network here alone, and on the server as soon as it is heard. */
export async function signOutHere(): Promise<void> {
  try {
    await ask(api.DELETE("/session", { params: { query: { unsent: unsentOf() } } }));
    flag(toSignOut, null);
  } catch (e) {
    if (!(e instanceof Unreachable)) throw e;
    flag(toSignOut, "yes");
  }
  flag(notAsked, null);
}

/** Sees to what was left over, and to whose session it is, whenever it is asked who is signed in. */
export function watchSession(): void {
  aroundSession.before = async () => {
    if (!flagged(toSignOut)) return;
    await ask(api.DELETE("/session", { params: { query: { unsent: unsentOf() } } }));
    flag(toSignOut, null);
  };
  aroundSession.heard = (session) => {
    if (withoutPIN() !== undefined) return null; // whoever works here signs in first
    void rememberPerson(session).catch(() => {});
    return session;
  };
}

/** Has the page go by the shop's ways and clock as they were kept, until the server is heard. */
export async function settleAsKept(client: QueryClient): Promise<void> {
  const session = client.getQueryData<Session | null>(keys.session);
  if (!session) return;
  settle(waysOf(session.shop));
  settleBehind((await shelf.shown<number>("behind").catch(() => 0)) ?? 0);
  heardBefore((await shelf.shown<number>("heard").catch(() => 0)) ?? 0);
}
