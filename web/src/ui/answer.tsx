import { keepPreviousData, type QueryKey, skipToken, useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Problem, Unreachable } from "../api/client";
import { reachNow, useReach } from "../outbox/reach";
import { WhenConnected } from "./Fetched";
import { Failure } from "./parts";

/**
 * What the server is asked of something that is still being typed. It can be put only by useAnswer:
 * what it answers belongs to this question, and is never shown as the answer to another.
 */
export type Question<T> = {
  readonly key: QueryKey;
  /** Nothing while the question cannot be put yet. */
  readonly put: ((signal: AbortSignal) => Promise<T>) | undefined;
  /** How long what was answered holds, in milliseconds; at once it is asked anew when left out. */
  readonly holds?: number;
  /** The moments until which an answer is so: it is asked again when one comes. */
  readonly until?: (answer: T) => (string | undefined)[];
};

export type Answered<T> = {
  /** The answer to the present question; nothing while it is being asked, or where it cannot be. */
  answer: T | undefined;
  /** While it is being asked: the answer to the question before. To be shown as such, by Asked. */
  before: T | undefined;
  asking: boolean;
  error: Error | null;
  again: () => void;
};

/** Puts a question, each time it changes. */
export function useAnswer<T>({ key, put, holds, until }: Question<T>): Answered<T> {
  const q = useQuery<T>({
    queryKey: key,
    queryFn: put ? ({ signal }) => put(signal) : skipToken,
    placeholderData: keepPreviousData,
    staleTime: holds ?? 0,
    ...(until ? { meta: { until } } : {}),
    gcTime: 10_000, // one a keystroke: not worth keeping
    retry: (count, e) => !(e instanceof Problem) && count < 3 && reachNow().reached,
  });
  const asking = put !== undefined && (q.isPending || q.isPlaceholderData);
  const answered = put !== undefined && !asking && !q.isError;
  return {
    answer: answered ? q.data : undefined,
    before: asking && q.isPlaceholderData ? q.data : undefined,
    asking,
    error: put === undefined ? null : q.error,
    again: () => void q.refetch(),
  };
}

/**
 * Shows an answer. While it is asked for, the one before is there faintly, so that nothing jumps, and it
 * is said that this is not the answer; what acts on an answer waits for it, by `old`.
 */
export function Asked<T>(props: {
  of: Answered<T>;
  /** What is said meanwhile; null where another part of the screen says it. */
  words?: string | null;
  className?: string;
  children: (answer: T, old: boolean) => ReactNode;
}) {
  const { of, words = "Working it out…", className = "", children } = props;
  const { reached } = useReach();
  if (of.error instanceof Unreachable && !reached)
    return <WhenConnected what="what the program says of it" again={of.again} />;
  if (of.error) return <Failure error={of.error} again={of.again} />;
  const shown = of.answer ?? of.before;
  if (shown === undefined)
    return of.asking && words ? (
      <p role="status" className="text-quiet">
        {words}
      </p>
    ) : null;
  return (
    <div className="relative" aria-busy={of.asking}>
      <div className={`${of.asking ? "older" : ""} ${className}`}>{children(shown, of.asking)}</div>
      {of.asking && words && (
        <p role="status" className="asking">
          {words}
        </p>
      )}
    </div>
  );
}

/**
 * A list that is searched. While what was typed last is looked for, what fitted the text before is there faintly, is
 * not said to fit, and cannot be picked. What is shown is drawn with the question that it answers.
 */
export function Searched<Q extends Record<string, string | boolean>>(props: {
  query: { isPlaceholderData: boolean };
  question: Q;
  children: (answered: Q) => ReactNode;
}) {
  const old = props.query.isPlaceholderData;
  const [answered, setAnswered] = useState(props.question);
  if (!old && Object.keys(answered).some((k) => answered[k] !== props.question[k])) setAnswered(props.question);
  return (
    <div className="relative" aria-busy={old}>
      <div className={old ? "older" : ""} inert={old}>
        {props.children(old ? answered : props.question)}
      </div>
      {old && (
        <p role="status" className="asking">
          Looking…
        </p>
      )}
    </div>
  );
}
