import { useMutation } from "@tanstack/react-query";
import { Unreachable } from "../api/client";

/** A change over the version that was seen: sent again while the server cannot be reached; told of when it is done. */
export function useChange<In, Out>(send: (input: In) => Promise<Out>, done: (out: Out) => void) {
  return useMutation({
    mutationKey: ["deed"],
    mutationFn: send,
    networkMode: "always",
    retry: (_, e) => e instanceof Unreachable,
    retryDelay: (n) => Math.min(500 * 2 ** n, 5000),
    onSuccess: done,
  });
}
