import type { Change } from "../api/client";
import { Button } from "./controls";
import { Dialog, Failure } from "./parts";
import { useWrite } from "./sending";

/** Asks before something is archived or taken out of the archive, and does it. */
export function Archiving(props: {
  what: string;
  archived: boolean; // as it is now
  means: string;
  send: () => Promise<unknown>;
  touches: Change[];
  close: () => void;
}) {
  const send = useWrite(props.send, props.touches);
  return (
    <Dialog title={props.archived ? "Take out of the archive?" : `Archive ${props.what}?`} close={props.close}>
      <p>{props.means}</p>
      {send.isError && <Failure error={send.error} />}
      <div className="flex flex-wrap gap-3">
        <Button kind="main" disabled={send.isPending} onClick={() => send.mutate(undefined, { done: props.close })}>
          {props.archived ? "Take out" : "Archive"}
        </Button>
        <Button kind="quiet" onClick={props.close}>
          Cancel
        </Button>
      </div>
    </Dialog>
  );
}
