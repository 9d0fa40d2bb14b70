import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Device } from "../../api/client";
import { devicesOptions } from "../../api/queries";
import { Button, Input } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { FormDialog } from "../../ui/FormDialog";
import { shortDay, weekdayAndTime } from "../../ui/format";
import { useMay, useWhyNot } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Empty, Failure, Field } from "../../ui/parts";
import { faultAt, useWrite } from "../../ui/sending";

const topics = [{ topic: "rules" } as const];

/** The browsers on which somebody signed in: named, and signed out from afar where a tablet was lost. */
export function DevicesPlace() {
  const may = useMay("listDevices");
  const why = useWhyNot("listDevices");
  const devices = useQuery({ ...devicesOptions, enabled: may });
  const [naming, setNaming] = useState<Device>();
  const signOut = useWrite(
    (id: string, key) =>
      ask(
        api.DELETE("/devices/{device}/session", {
          params: { path: { device: id }, header: { "Idempotency-Key": key } },
        }),
      ),
    topics,
  );
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Devices</Heading>
      {!may ? (
        <Empty title={why ?? ""} />
      ) : (
        <>
          <p className="max-w-prose text-quiet">
            Every browser on which somebody signed in. A tablet that is lost is signed out from here.
          </p>
          {signOut.isError && <Failure error={signOut.error} />}
          <section className="card card-border bg-base-100" aria-label="Devices">
            <Fetched query={devices} what="the devices">
              {(all) =>
                all.length === 0 ? (
                  <Empty title="Nobody signed in on any device yet.">
                    <p>Each browser stands here from its first sign-in on.</p>
                  </Empty>
                ) : (
                  <ul>
                    {all.map((d) => (
                      <li
                        key={d.id}
                        data-testid="device"
                        className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-base-300 px-4 py-2 first:border-t-0"
                      >
                        <span className="min-w-0 grow basis-60">
                          <span className="block font-semibold break-words">
                            {d.name}
                            {d.this && <span className="font-normal text-quiet"> (this one)</span>}
                          </span>
                          <span className="block text-note text-quiet">
                            {d.signed_in ? `${d.signed_in} is signed in` : "Nobody is signed in"}, seen{" "}
                            {weekdayAndTime(d.last_seen_at)}, known since {shortDay(d.since)}
                          </span>
                        </span>
                        <Button aria-label={`Rename ${d.name}`} onClick={() => setNaming(d)}>
                          Rename
                        </Button>
                        {d.signed_in && (
                          <Button
                            aria-label={`Sign out ${d.name}`}
                            disabled={signOut.isPending}
                            onClick={() => signOut.mutate(d.id)}
                          >
                            Sign out
                          </Button>
                        )}
                      </li>
                    ))}
                  </ul>
                )
              }
            </Fetched>
          </section>
        </>
      )}
      {naming && <NameDialog device={naming} close={() => setNaming(undefined)} />}
    </div>
  );
}

function NameDialog({ device: d, close }: { device: Device; close: () => void }) {
  const [name, setName] = useState(d.name);
  const send = useWrite(
    (body: { name: string }, key) =>
      ask(
        api.PUT("/devices/{device}", { params: { path: { device: d.id }, header: { "Idempotency-Key": key } }, body }),
      ),
    topics,
    close,
  );
  return (
    <FormDialog
      title={`Rename ${d.name}`}
      action="Save"
      pending={send.isPending}
      error={send.error}
      close={close}
      send={() => send.mutate({ name })}
    >
      <Field
        label="This device is called"
        hint="Where it stands: Stand 1, Counter."
        fault={faultAt(send.error, "name")}
      >
        {(a) => <Input {...a} name="device" maxLength={80} value={name} onChange={(e) => setName(e.target.value)} />}
      </Field>
    </FormDialog>
  );
}
