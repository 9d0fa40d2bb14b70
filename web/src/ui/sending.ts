import { type QueryClient, useMutation, useMutationState, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { type Change, idempotencyKey, Problem, Unreachable, withKey } from "../api/client";
import { refresh } from "../api/live";
import { unsentYet } from "../outbox/reach";
import { useSingly } from "./singly";

/**
 * A write: it is written once, however often it is sent. It keeps its key until it is answered, is sent again by itself
 * while the server cannot be reached, and counts as done when what it made old is asked for again. `done` is told of it
 * even when nobody looks at the screen any longer.
 */
export function useWrite<In = void, Out = unknown>(
  send: (input: In, key: string) => Promise<Out>,
  changes: Change[],
  done?: (out: Out, input: In) => void,
) {
  const client = useQueryClient();
  const { begin, end } = useSingly();
  const mutation = useMutation({
    mutationKey: ["write"],
    mutationFn: ({ input, key }: Keyed<In>) => withKey(key, () => send(input, key)),
    networkMode: "always", // whether the server is there is seen by asking it
    retry: (_, e) => e instanceof Unreachable,
    retryDelay: (n) => Math.min(500 * 2 ** n, 5000),
    onSuccess: (out, { input, key }) => {
      done?.(out, input);
      // What waits on this device is asked for anew once it was sent.
      return unsentYet.has(key) ? undefined : refresh(client, ...changes);
    },
    onSettled: (_, __, { input }) => end(input),
  });
  const { mutate: once } = mutation;
  const mutate = useCallback(
    (input: In, then: Then<Out> = {}) => {
      const { key = idempotencyKey(), done, refused } = then;
      if (!begin(input)) return;
      once(
        { input, key },
        {
          onSuccess: (out) => done?.(out),
          onError: (e) => {
            if (e instanceof Problem) refused?.();
          },
        },
      );
    },
    [begin, once],
  );
  const { mutateAsync, ...rest } = mutation;
  return {
    ...rest,
    mutate,
    /** The same for what goes on when it is written. */
    write: (input: In) => mutateAsync({ input, key: idempotencyKey() }),
  };
}

type Then<Out> = {
  /** The key kept with what was typed, so that it is still done once when it is sent again after a reload. */
  key?: string;
  /** Where to go, told only while the screen is there. */
  done?: (out: Out) => void;
  /** What was sent must change before it is sent again: under another key. */
  refused?: () => void;
};

type Keyed<In> = { input: In; key: string };

/** A write that no screen waits for, as taking back what a hand did that slipped: sent once, and what it made old asked for again. */
export async function writeOnce<Out>(client: QueryClient, send: () => Promise<Out>, change: Change): Promise<Out> {
  const out = await withKey(idempotencyKey(), send);
  await refresh(client, change);
  return out;
}

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
