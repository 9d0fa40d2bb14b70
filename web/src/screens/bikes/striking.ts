import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Change, idempotencyKey, Unreachable } from "../../api/client";
import { writeOnce } from "../../ui/sending";
import { holdBack } from "../../ui/undo";

/** What is wrong with the reason for striking out, if anything is. */
export const reasonFault = (reason: string): string | undefined =>
  reason.trim().length < 3 ? "Say in a few words what was wrong: it stays in the history." : undefined;

const soon = (ms: number) => new Promise((go) => window.setTimeout(go, ms));

async function strike(client: QueryClient, entry: string, reason: string, change: Change): Promise<void> {
  const params = { path: { entry }, header: { "Idempotency-Key": idempotencyKey() } };
  const send = () => ask(api.POST("/ledger/{entry}/strike", { params, body: { reason }, keepalive: true }));
  for (;;)
    try {
      await writeOnce(client, send, change);
      return;
    } catch (e) {
      if (!(e instanceof Unreachable)) throw e;
      await soon(2000); // it is done once, however often it is sent
    }
}

/**
 * Strikes an entry out. Nobody takes a line out of the ledger again, so it is drawn only when the time in which it can
 * be taken back is over.
 */
export function useStriking(change: Change) {
  const client = useQueryClient();
  return (entry: string, what: string, reason: string) =>
    holdBack(`${what}: voided`, () => strike(client, entry, reason.trim(), change));
}
