import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, ask, type Bike, Problem, type WearTrack } from "../../api/client";
import { wearTrackOptions } from "../../api/queries";
import { readWords, WearTrackChart } from "../../draw/WearTrackChart";
import { shortDay } from "../../ui/format";
import { OdometerField } from "../../ui/OdometerField";
import { Dialog, Failure, Field, Waiting } from "../../ui/parts";
import { deed, faultAt, useDeed } from "../../ui/sending";
import { kilometres, notKilometres } from "../../ui/typed";
import { trackMissing, trackSentence } from "../../ui/words";

/** The wear track of a bike: what is left, when to look again, and the deeds it is told from. */
export function Track({ bike }: { bike: Bike }) {
  const track = useQuery(wearTrackOptions(bike.tag));
  const [asking, setAsking] = useState<"nothing" | "odometer" | "chain">("nothing");
  return (
    <section className="panel p-4" aria-label="Wear track">
      {track.isPending && <Waiting what="the wear track" />}
      {track.isError && <Failure error={track.error} again={() => track.refetch()} />}
      {track.data && (
        <>
          <h2 className="text-lg" data-testid="track-says">
            {trackSentence(track.data)}
          </h2>
          {track.data.missing.length > 0 && (
            <ul className="mt-1 text-quiet">
              {track.data.missing.map((m) => (
                <li key={m}>{trackMissing[m]}</li>
              ))}
            </ul>
          )}
          {(track.data.readings.length > 0 || track.data.forecast) && (
            <div className="mt-2">
              <WearTrackChart data={track.data} />
              <Numbers data={track.data} />
            </div>
          )}
        </>
      )}
      {!bike.archived && (
        <div className="mt-3 flex flex-wrap gap-2">
          <button type="button" className="deed-plain" onClick={() => setAsking("odometer")}>
            Note the odometer
          </button>
          <button type="button" className="deed-plain" onClick={() => setAsking("chain")}>
            New chain fitted
          </button>
        </div>
      )}
      {asking === "odometer" && (
        <NoteOdometer bike={bike} last={track.data?.odometer_km} close={() => setAsking("nothing")} />
      )}
      {asking === "chain" && <FitChain bike={bike} close={() => setAsking("nothing")} />}
    </section>
  );
}

/** The same in numbers, for those who do not see the drawing and for copying. */
function Numbers({ data }: { data: WearTrack }) {
  return (
    <details className="mt-1 text-[14px]">
      <summary className="flex min-h-(--target) items-center font-semibold">The same in numbers</summary>
      <div className="overflow-x-auto">
        <table className="w-full font-mono">
          <thead className="text-left font-sans text-[13px] text-quiet">
            <tr>
              <th className="font-semibold">Day</th>
              <th className="font-semibold">Hard km</th>
              <th className="font-semibold">Wear</th>
              <th className="font-semibold">Tool</th>
            </tr>
          </thead>
          <tbody>
            {data.readings.toReversed().map((r) => (
              <tr key={r.entry_id} className="border-t border-base-300">
                <td className="pr-3">{shortDay(r.taken_at)}</td>
                <td className="pr-3">{Math.round(r.hard_km)}</td>
                <td className="pr-3">{readWords(r)}</td>
                <td className="font-sans">{r.instrument}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {data.forecast && (
        <p className="mt-1">
          Left: {data.forecast.left_hard_km.p10.toFixed(0)} / {data.forecast.left_hard_km.p50.toFixed(0)} /{" "}
          {data.forecast.left_hard_km.p90.toFixed(0)} hard km (10, 50 and 90 in 100). A kilometre here counts as{" "}
          {data.hard_per_km.toFixed(2)}.
        </p>
      )}
    </details>
  );
}

function NoteOdometer({ bike, last, close }: { bike: Bike; last: number | undefined; close: () => void }) {
  const [typed, setTyped] = useState("");
  const [wrong, setWrong] = useState(false);
  const send = useDeed(
    (body: { km: number; new_computer: boolean }, key) =>
      ask(
        api.POST("/bikes/{tag}/odometer", {
          params: { path: { tag: bike.tag }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    [["bike", bike.tag]],
  );
  const lower = send.error instanceof Problem && send.error.body.code === "lower-than-last";
  const submit = (newComputer: boolean) => {
    const km = kilometres(typed);
    setWrong(km === undefined);
    if (km !== undefined) send.mutate(deed({ km, new_computer: newComputer }), { onSuccess: close });
  };
  return (
    <Dialog title="What does the odometer show?" close={close}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e: FormEvent) => {
          e.preventDefault();
          submit(false);
        }}
      >
        <OdometerField
          label="Odometer"
          value={typed}
          set={setTyped}
          hint={last === undefined ? undefined : `Last read: ${last} km`}
          fault={wrong ? notKilometres : lower ? send.error?.message : faultAt(send.error, "km")}
        />
        {send.isError && !lower && !faultAt(send.error, "km") && <Failure error={send.error} />}
        <div className="flex flex-wrap gap-3">
          <button type="submit" className="deed-main" disabled={send.isPending}>
            Note it
          </button>
          {lower && (
            <button type="button" className="deed-plain" disabled={send.isPending} onClick={() => submit(true)}>
              It is a new computer
            </button>
          )}
          <button type="button" className="deed-quiet" onClick={close}>
            Leave it
          </button>
        </div>
      </form>
    </Dialog>
  );
}

function FitChain({ bike, close }: { bike: Bike; close: () => void }) {
  const today = new Date().toLocaleDateString("sv"); // 2026-05-04, as the field wants it
  const [day, setDay] = useState(today);
  const [typed, setTyped] = useState("");
  const [wrong, setWrong] = useState(false);
  const send = useDeed(
    (body: { fitted_at?: string; odometer_km?: number }, key) =>
      ask(
        api.POST("/bikes/{tag}/chain", {
          params: { path: { tag: bike.tag }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    [["bike", bike.tag]],
  );
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const km = kilometres(typed);
    const bad = typed.trim() !== "" && km === undefined;
    setWrong(bad);
    if (bad) return;
    const then = day === "" || day === today ? {} : { fitted_at: new Date(`${day}T12:00`).toISOString() };
    send.mutate(deed({ ...then, ...(km === undefined ? {} : { odometer_km: km }) }), { onSuccess: close });
  };
  return (
    <Dialog title="A new chain was fitted" close={close}>
      <p>Its wear begins anew here. What the chain before showed moves the forecast of this one half-way.</p>
      <p className="border-l-4 border-rust pl-3">
        Warn the rider: a new chain on worn sprockets can skip under load. Seat and load-test the joining link; a chain
        that opens throws the rider.
      </p>
      <form className="flex flex-col gap-3" onSubmit={submit}>
        <Field label="On">
          {(a) => (
            <input {...a} type="date" name="fitted" value={day} max={today} onChange={(e) => setDay(e.target.value)} />
          )}
        </Field>
        <OdometerField
          label="Odometer then, if known"
          value={typed}
          set={setTyped}
          fault={wrong ? notKilometres : faultAt(send.error, "odometer_km")}
        />
        {send.isError && <Failure error={send.error} />}
        <div className="flex flex-wrap gap-3">
          <button type="submit" className="deed-main" disabled={send.isPending}>
            Note the new chain
          </button>
          <button type="button" className="deed-quiet" onClick={close}>
            Leave it
          </button>
        </div>
      </form>
    </Dialog>
  );
}
