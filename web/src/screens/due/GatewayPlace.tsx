import { useQuery } from "@tanstack/react-query";
import { api, ask, type ReceivedMessage } from "../../api/client";
import { receivedOptions } from "../../api/queries";
import { Button } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { dayAndTime } from "../../ui/format";
import { useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Empty, Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { DueHead } from "./DueHead";

/** What the simulated gateway received. It stands in for a network: nothing leaves this machine. */
export function GatewayPlace() {
  const received = useQuery(receivedOptions);
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Gateway</Heading>
      <DueHead />
      <p className="card card-border bg-base-100 border-l-4 border-l-warning px-4 py-3">
        This gateway is simulated: it delivers, keeps one waiting and fails now and then, as networks do. Nothing leaves
        this machine.
      </p>
      <Fetched query={received} what="what the gateway received">
        {(all) =>
          all.length === 0 ? (
            <div className="card card-border bg-base-100">
              <Empty title="The gateway received nothing yet.">
                <p>What is sent to customers stands here as it went out.</p>
              </Empty>
            </div>
          ) : (
            <ul className="flex flex-col gap-2">
              {all.map((m) => (
                <One key={m.message_id + m.received_at} message={m} />
              ))}
            </ul>
          )
        }
      </Fetched>
    </div>
  );
}

function One({ message: m }: { message: ReceivedMessage }) {
  const replies = useSession().shop.simulated_gateway;
  const stop = useWrite(
    () => ask(api.POST("/gateway/replies", { body: { from: m.address, text: "STOP" } })),
    [{ topic: "everything" }],
  );
  return (
    <li className="card card-border bg-base-100 flex flex-col gap-1 p-4" data-testid="received">
      <p className="flex flex-wrap items-baseline justify-between gap-x-4">
        <span className="font-mono break-all">{m.address}</span>
        <span className={`font-semibold ${m.delivered ? "" : "text-error"}`}>
          {m.delivered ? "Delivered" : "Not taken"} <span className="font-normal">{dayAndTime(m.received_at)}</span>
        </span>
      </p>
      <p className="break-words">{m.body}</p>
      {m.delivered && replies && (
        <div className="flex flex-wrap items-center gap-3">
          <Button disabled={stop.isPending || stop.isSuccess} onClick={() => stop.mutate()}>
            Answer STOP as this customer
          </Button>
          {stop.isSuccess && (
            <span>
              {stop.data.stopped === 0
                ? "Nobody with this address is contacted any more."
                : "Taken off: no more messages go there."}
            </span>
          )}
        </div>
      )}
      {stop.isError && <Failure error={stop.error} />}
    </li>
  );
}
