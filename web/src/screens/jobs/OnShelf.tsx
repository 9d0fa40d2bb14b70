import { useState } from "react";
import { api, ask, type Job } from "../../api/client";
import { Button } from "../../ui/controls";
import { Dialog, Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { materialAmount } from "../../ui/units";
import { materialWords } from "../../words/work";

/** What of the amounts of a block the shelf falls short of, before somebody stands there with an empty bottle. */
export function OnShelf({ job, of }: { job: Job; of: string[] }) {
  const [open, setOpen] = useState(false);
  const kept = job.shelf.filter((o) => of.includes(o.material));
  if (kept.length === 0) return null;
  const short = kept.filter((o) => o.has < o.needs);
  return (
    <div className="flex flex-wrap items-center gap-x-3 text-note" data-testid="on-shelf">
      {short.length > 0 && (
        <p className="min-w-0 grow border-l-4 border-l-warning pl-3" role="status">
          <b>Not enough on the shelf: </b>
          {short
            .map(
              (o) =>
                `${materialWords(o.material).toLowerCase()}, ${materialAmount(o.has, o.unit)} of ${materialAmount(o.needs, o.unit)}`,
            )
            .join("; ")}
          . It stands on the list of what to order.
        </p>
      )}
      <Button kind="quiet" may="ranOut" className="-ml-4 text-note" onClick={() => setOpen(true)}>
        Something ran out
      </Button>
      {open && <RanOut kept={kept} close={() => setOpen(false)} />}
    </div>
  );
}

function RanOut({ kept, close }: { kept: Job["shelf"]; close: () => void }) {
  const empty = useWrite(
    (id: string, key) =>
      ask(
        api.POST("/materials/{material}/ran-out", {
          params: { path: { material: id }, header: { "Idempotency-Key": key } },
        }),
      ),
    [{ topic: "stores" }],
  );
  return (
    <Dialog title="Something ran out" close={close}>
      <p className="text-note">
        What is empty counts as nothing from now on and stands on the list of what to order. The next steps take what
        there is of another.
      </p>
      <ul>
        {kept.flatMap((o) =>
          o.bottles.map((b) => (
            <li
              key={b.id}
              className="flex flex-wrap items-center justify-between gap-3 border-t border-base-300 py-2"
              data-testid="bottle"
            >
              <span className="min-w-0 break-words">
                {b.name}
                <span className="block text-note text-quiet">
                  {b.quantity > 0 ? `${materialAmount(b.quantity, o.unit)} by the count` : "empty"}
                </span>
              </span>
              {b.quantity > 0 && (
                <Button
                  aria-label={`It is empty: ${b.name}`}
                  disabled={empty.isPending}
                  onClick={() => empty.mutate(b.id)}
                >
                  It is empty
                </Button>
              )}
            </li>
          )),
        )}
      </ul>
      {empty.isError && <Failure error={empty.error} />}
      <Button onClick={close}>Close</Button>
    </Dialog>
  );
}
