import { useMutation, useMutationState, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { idempotencyKey, Problem, Unreachable, withKey } from "../api/client";
import { useSingly } from "./singly";

/**
 * A write that is written once, however often it is sent: it keeps its key until it is answered, is
 * sent again by itself while the server cannot be reached, and only then counts as done. `done` is
 * told of it even when nobody looks at the place any longer.
 */
export function useWrite<In, Out>(
  send: (input: In, key: string) => Promise<Out>,
  touches: unknown[][],
  done?: (key: string) => void,
) {
  const client = useQueryClient();
  const { begin, end } = useSingly();
  const mutation = useMutation({
    mutationKey: ["write"],
    mutationFn: ({ input, key }: { input: In; key: string }) => withKey(key, () => send(input, key)),
    networkMode: "always", // whether the server is there is seen by asking it
    retry: (_, e) => e instanceof Unreachable,
    retryDelay: (n) => Math.min(500 * 2 ** n, 5000),
    onSuccess: (_, { key }) => {
      done?.(key);
      return Promise.all(touches.map((queryKey) => client.invalidateQueries({ queryKey })));
    },
    onSettled: (_, __, { input }) => end(input),
  });
  const { mutate: once } = mutation;
  const mutate = useCallback(
    (...sent: Parameters<typeof once>) => {
      if (begin(sent[0].input)) once(...sent);
    },
    [begin, once],
  );
  return { ...mutation, mutate };
}

/** What useWrite's mutate takes: the input with a key of its own. */
export const write = <In>(input: In) => ({ input, key: idempotencyKey() });

/** How many commands wait for the server. */
export function useToSend(): number {
  return useMutationState({ filters: { mutationKey: ["write"], status: "pending" } }).length;
}

/** Why what waits could not be sent yet, in words; nothing while nobody has failed to reach the server. */
export function useWhyNotSent(): string | undefined {
  const reasons = useMutationState({
    filters: { mutationKey: ["write"], status: "pending" },
    select: (m) => m.state.failureReason,
  });
  return reasons.find((r): r is Unreachable => r instanceof Unreachable)?.message;
}

/** The message at a path of a failed write. */
export const faultAt = (error: unknown, path: string) => (error instanceof Problem ? error.at(path) : undefined);

/** What a failed write says of a value that is part of another: of the hours of a day, which are one field. */
export const faultUnder = (error: unknown, path: string) =>
  error instanceof Problem
    ? error.at(
        error.body.fields?.find((f) => f.path.startsWith(`${path}.`) || f.path.startsWith(`${path}[`))?.path ?? "",
      )
    : undefined;

/** Whether a failed write names what is wrong field by field. */
export const namesFields = (error: unknown) => error instanceof Problem && (error.body.fields?.length ?? 0) > 0;
