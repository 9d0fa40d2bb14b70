import type { ReactNode } from "react";
import { Problem } from "../api/client";
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
  if (query.isPending) return <Waiting what={props.what} />;
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
