import type { QueryClient } from "@tanstack/react-query";
import { offerBack } from "../ui/undo";
import { withdraw } from "./decided";
import { type Kept, kinds } from "./kinds";
import { keptOf } from "./making";
import { standIn } from "./meanwhile";
import {
  answerTo,
  changed,
  deliver,
  isEmpty,
  isWaitedFor,
  keptNow,
  onNews,
  read,
  setBroken,
  setQueryClient,
  tell,
  thisTab,
  waitNoMore,
} from "./queue";
import { look, onReach, reachNow, unsentYet } from "./reach";
import { drain, sendNow } from "./sending";
import * as shelf from "./shelf";

// One outbox for all that is written at the stand: it is kept on this device first, and then sent. Where the server does not
// answer at once the screen goes on, and what is unsent is marked.

/** How long the screen waits for the server before it goes on without it; longer where the answer leads to another screen. */
const patience = { press: 2_500, other: 6_000 };

/** Begins to keep and to send; what was kept before the page was loaded is sent now. */
export function openOutbox(of: QueryClient): () => void {
  setQueryClient(of);
  unsentYet.has = (key) => keptNow().some((k) => k.key === key || k.key.startsWith(`${key}-`));
  void look();
  void drain();
  const deaf = onNews((news) => {
    if (news.kind === "changed") {
      void read().catch(() => {});
      return;
    }
    const mine = keptNow().find((k) => k.key === news.key);
    // Another tab sent it, and this one still shows what was typed: what is wrong with it is said here.
    if (mine && news.status >= 400 && isWaitedFor(news.key)) void shelf.takeOff([mine.order]).then(changed);
    deliver(news);
  });
  const again = () => void drain();
  window.addEventListener("online", again);
  document.addEventListener("visibilitychange", again);
  const end = onReach(() => {
    if (reachNow().reached) {
      again();
      // What changed meanwhile was not asked for.
      void of.refetchQueries({ type: "active", predicate: (q) => q.isStale() });
    } else tell();
  });
  const ask = (e: BeforeUnloadEvent) => {
    if (!leaves && !isEmpty()) e.preventDefault();
  };
  window.addEventListener("beforeunload", ask);
  return () => {
    deaf();
    window.removeEventListener("online", again);
    document.removeEventListener("visibilitychange", again);
    window.removeEventListener("beforeunload", ask);
    end();
  };
}

let leaves = false;

/** The page is left on purpose, and comes back with what is unsent: nobody is asked. */
export function leavingOnPurpose(): void {
  leaves = true;
}

/** Sends a request of the contract: what is work at the stand is kept first. */
export async function send(request: Request): Promise<Response> {
  if (request.method === "GET") return sendNow(request);
  const one = await keptOf(request);
  if (!one) return sendNow(request);
  let mine: Kept;
  try {
    const before = keptNow().find((k) => k.key === one.key);
    if (before && !before.refused) await shelf.change(before.order, { tab: thisTab });
    if (before?.refused) await shelf.takeOff([before.order]);
    mine = before && !before.refused ? before : await shelf.keep(one);
    setBroken();
  } catch (e) {
    setBroken(e);
    tell();
    return sendNow(
      new Request(request, { headers: { ...Object.fromEntries(request.headers), "Idempotency-Key": one.key } }),
    );
  }
  const answered = answerTo(mine.key);
  await changed();
  void drain();
  const kind = kinds[mine.operation];
  const slow = new Promise<"slow">((resolve) => {
    const late = () => resolve("slow");
    window.setTimeout(late, reachNow().reached ? (kind.press ? patience.press : patience.other) : 0);
    const end = onReach(() => {
      if (!reachNow().reached) late();
    });
    void answered.then(end);
  });
  const first = await Promise.race([answered, slow]);
  if (first !== "slow") return first;
  return goOn(mine);
}

/** Nobody waits for it any more: the screen goes on with what is known here. */
async function goOn(mine: Kept): Promise<Response> {
  waitNoMore(mine.key);
  const still = keptNow().find((k) => k.key === mine.key);
  if (still) {
    await shelf.change(still.order, { tab: "" }).catch(() => {});
    await changed().catch(() => {});
    if (kinds[mine.operation].press || mine.operation === "doWait")
      offerBack(mine.words, () => withdraw([mine.key]), mine.job);
  }
  const answer = standIn(mine);
  return new Response(JSON.stringify(answer ?? null), { headers: { "Content-Type": "application/json" } });
}
