import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, renderHook, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { Problem, Unreachable } from "../api/client";
import { useToSend, useWrite } from "./sending";

afterEach(() => vi.useRealTimers());

function hooks(send: (input: string, key: string) => Promise<string>) {
  const client = new QueryClient();
  const again = vi.spyOn(client, "invalidateQueries");
  const { result } = renderHook(() => ({ action: useWrite(send, [{ topic: "stock" }]), toSend: useToSend() }), {
    wrapper: ({ children }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>,
  });
  return { result, again };
}

it("sends again under the same key while the server is away, and counts what waits", async () => {
  vi.useFakeTimers({ shouldAdvanceTime: true });
  const keys: string[] = [];
  let away = true;
  const { result, again } = hooks(async (_, key) => {
    keys.push(key);
    if (away) throw new Unreachable();
    return "kept";
  });
  act(() => result.current.action.mutate("reading"));
  await waitFor(() => expect(result.current.toSend).toBe(1));
  await act(() => vi.advanceTimersByTimeAsync(4000));
  expect(keys.length).toBeGreaterThan(2);
  expect(again).not.toHaveBeenCalled();
  away = false;
  await act(() => vi.advanceTimersByTimeAsync(6000));
  await waitFor(() => expect(result.current.action.data).toBe("kept"));
  expect(result.current.toSend).toBe(0);
  expect(new Set(keys).size).toBe(1);
  expect(again).toHaveBeenCalledOnce();
});

it("does not send again what the server refused", async () => {
  let sent = 0;
  const { result } = hooks(async () => {
    sent++;
    throw new Problem({ type: "about:blank", title: "No.", status: 409, code: "bike-archived" });
  });
  act(() => result.current.action.mutate("reading"));
  await waitFor(() => expect(result.current.action.isError).toBe(true));
  expect(sent).toBe(1);
});

it("does once what a hasty finger does twice, and lets it be done again when that is over", async () => {
  const answers: ((said: string) => void)[] = [];
  const { result } = hooks(() => new Promise<string>((answer) => answers.push(answer)));
  act(() => {
    result.current.action.mutate("take in");
    result.current.action.mutate("take in");
    result.current.action.mutate("another");
  });
  await waitFor(() => expect(answers).toHaveLength(2));
  for (const answer of answers) act(() => answer("done"));
  await waitFor(() => expect(result.current.toSend).toBe(0));
  act(() => result.current.action.mutate("take in"));
  await waitFor(() => expect(answers).toHaveLength(3));
});
