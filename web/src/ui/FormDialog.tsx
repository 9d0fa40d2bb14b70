import type { ReactNode } from "react";
import { Conflict, versionsOf } from "./Conflict";
import { Button } from "./controls";
import { Dialog, Failure } from "./parts";
import { namesFields } from "./sending";

/** A small form over the page: what went wrong that no field says, the action, and the way back. */
export function FormDialog(props: {
  title: string;
  action: string;
  back?: string;
  send: () => void;
  pending?: boolean;
  error?: unknown;
  close: () => void;
  more?: ReactNode; // buttons between the action and the way back
  children: ReactNode;
}) {
  return (
    <Dialog title={props.title} close={props.close}>
      <form
        className="flex flex-col gap-4"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          if (!props.pending) props.send();
        }}
      >
        {props.children}
        {props.error && !namesFields(props.error) ? <Failure error={props.error} /> : null}
        <div className="flex flex-wrap gap-2">
          <Button type="submit" kind="main" disabled={props.pending}>
            {props.action}
          </Button>
          {props.more}
          <Button kind="quiet" onClick={props.close}>
            {props.back ?? "Cancel"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/**
 * A form for facts that somebody else may have changed meanwhile: then what they wrote stands beside what was typed, and
 * either is kept. `facts` are theirs as they would be sent; `send` writes over that version.
 */
export function EditDialog<Theirs extends { version: number }>(props: {
  title: string;
  action: string;
  send: (over?: number) => void;
  pending: boolean;
  error: unknown;
  facts: (theirs: Theirs) => object;
  close: () => void;
  more?: ReactNode;
  children: ReactNode;
}) {
  const versions = versionsOf(props.error);
  const theirs = versions?.theirs as Theirs | undefined;
  return (
    <FormDialog {...props} send={() => props.send()} error={versions ? undefined : props.error}>
      {versions && theirs && (
        <Conflict
          yours={versions.yours as Record<string, unknown>}
          theirs={props.facts(theirs) as Record<string, unknown>}
          keepMine={() => props.send(theirs.version)}
          takeTheirs={props.close}
        />
      )}
      {props.children}
    </FormDialog>
  );
}
