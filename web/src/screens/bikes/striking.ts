import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { api, ask, idempotencyKey, Unreachable } from "../../api/client";
import { holdBack } from "../../ui/undo";

/** What is wrong with the reason for striking out, if anything is. */
export const reasonFault = (reason: string): string | undefined =>
  reason.trim().length < 3 ? "Say in a few words what was wrong: it stays in the history." : undefined;

const soon = (ms: number) => new Promise((go) => window.setTimeout(go, ms));

async function strike(client: QueryClient, entry: string, reason: string, touches: unknown[][]): Promise<void> {
  const header = { "Idempotency-Key": idempotencyKey() };
  for (;;)
    try {
      const params = { path: { entry }, header };
      await ask(api.POST("/ledger/{entry}/strike", { params, body: { reason }, keepalive: true }));
      break;
    } catch (e) {
      if (!(e instanceof Unreachable)) throw e;
      await soon(2000); // it is done once, however often it is sent
    }
  for (const queryKey of touches) await client.invalidateQueries({ queryKey });
}

/**
 * Strikes an entry out. Nobody takes a line out of the ledger again, so it is drawn only when the time in which it can
 * be taken back is over.
 */
export function useStriking(touches: unknown[][]) {
  const client = useQueryClient();
  return (entry: string, what: string, reason: string) =>
    holdBack(`${what}: voided`, () => strike(client, entry, reason.trim(), touches));
}
