import type { ReactNode } from "react";
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
  children: ReactNode;
}) {
  return (
    <Dialog title={props.title} close={props.close}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          if (!props.pending) props.send();
        }}
      >
        {props.children}
        {props.error && !namesFields(props.error) ? <Failure error={props.error} /> : null}
        <div className="flex flex-wrap gap-2">
          <button type="submit" className="deed-main" disabled={props.pending}>
            {props.action}
          </button>
          <button type="button" className="deed-quiet" onClick={props.close}>
            {props.back ?? "Leave it"}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
