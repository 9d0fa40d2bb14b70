import type { ReactNode } from "react";
import { Problem, Unreachable } from "../api/client";
import { useReach } from "../outbox/reach";
import { Button } from "./controls";
import { Failure, Waiting } from "./parts";

/**
 * Shows what a query fetched; until then that it is being fetched, or that it could not be. What was
 * fetched once stays up while it cannot be fetched again: the frame says that the server is away.
 */
export function Fetched<T>(props: {
  query: { isPending: boolean; data: T | undefined; error: unknown; refetch: () => unknown };
  what: string;
  children: (data: T) => ReactNode;
}) {
  const { query } = props;
  const { reached } = useReach();
  if (query.isPending) return <Waiting what={props.what} />;
  if (query.data === undefined && !reached && query.error instanceof Unreachable)
    return <WhenConnected what={props.what} again={() => void query.refetch()} />;
  if (query.data === undefined)
    return (
      <div className="p-4">
        <div className="card card-border bg-base-100 p-4">
          <Failure error={query.error} {...(isThere(query.error) ? { again: () => void query.refetch() } : {})} />
        </div>
      </div>
    );
  return <>{props.children(query.data)}</>;
}

/** Whether trying again may help: not for what does not exist. */
const isThere = (e: unknown) => !(e instanceof Problem && e.body.status === 404);

/** What is not on this device: it is there when there is a connection. */
export function WhenConnected({ what, again }: { what: string; again?: () => void }) {
  return (
    <p role="status" className="flex flex-wrap items-center gap-3 px-4 py-3 text-quiet" data-testid="when-connected">
      <span>When connected: {what}.</span>
      {again && (
        <Button kind="quiet" onClick={again}>
          Try again
        </Button>
      )}
    </p>
  );
}
