import { useMutation } from "@tanstack/react-query";
import { useCallback, useRef } from "react";
import { idempotencyKey, Unreachable, withKey } from "../api/client";
import { useSingly } from "./singly";

/**
 * A change over the version that was seen: sent again with its key while the server cannot be reached, so that it is
 * done once; told of when it is done.
 */
export function useChange<In, Out>(send: (input: In) => Promise<Out>, done: (out: Out) => void) {
  const keys = useRef(new Map<In, string>());
  const { begin, end } = useSingly();
  const mutation = useMutation({
    mutationKey: ["write"],
    mutationFn: (input: In) => withKey(keys.current.get(input) ?? idempotencyKey(), () => send(input)),
    networkMode: "always",
    retry: (_, e) => e instanceof Unreachable,
    retryDelay: (n) => Math.min(500 * 2 ** n, 5000),
    onMutate: (input) => void keys.current.set(input, idempotencyKey()),
    onSettled: (_, __, input) => {
      keys.current.delete(input);
      end(input);
    },
    onSuccess: done,
  });
  const { mutate: once } = mutation;
  const mutate = useCallback(
    (...sent: Parameters<typeof once>) => {
      if (begin(sent[0])) once(...sent);
    },
    [begin, once],
  );
  return { ...mutation, mutate };
}
