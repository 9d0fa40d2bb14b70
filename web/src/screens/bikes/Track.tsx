import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, ask, type Bike, type Mix, Problem, type WearTrack } from "../../api/client";
import { wearTrackOptions } from "../../api/queries";
import { readWords, WearTrackChart } from "../../draw/WearTrackChart";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Input, Table } from "../../ui/controls";
import { momentsOf, today } from "../../ui/days";
import { useDistance } from "../../ui/distance";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { digits, shortDay, whole } from "../../ui/format";
import { OdometerField } from "../../ui/OdometerField";
import { Choice, Dialog, Failure, Field, Waiting } from "../../ui/parts";
import { sayError } from "../../ui/said";
import { faultAt, useWrite } from "../../ui/sending";
import { WhenField } from "../../ui/WhenField";
import { typedDay } from "../../ui/when";
import { mixWords } from "../../words/bikes";
import { trackMissing, trackSentence } from "../../words/wear";
import { noShares, readShares, type Shares } from "./draft";

/** The wear track of a bike: what is left, when to look again, and the commands it is told from. */
export function Track({ bike }: { bike: Bike }) {
  const track = useQuery(wearTrackOptions(bike.tag));
  const d = useDistance();
  const [asking, setAsking] = useState<"nothing" | "odometer" | "chain">("nothing");
  return (
    <section className="card card-border bg-base-100 p-4" aria-label="Wear track">
      {track.isPending && <Waiting what="the wear track" />}
      {track.isError && <Failure error={track.error} again={() => track.refetch()} />}
      {track.data && (
        <>
          <h2 className="text-lg" data-testid="track-says">
            {trackSentence(track.data, d)}
          </h2>
          {track.data.missing.length > 0 && (
            <ul className="mt-1 text-quiet">
              {track.data.missing.map((m) => (
                <li key={m}>{trackMissing[m]}</li>
              ))}
            </ul>
          )}
          {track.data.both_sorts && (
            <p className="mt-1 text-note">
              Some readings of this chain come from tools that spread the rollers and read high, drawn hollow: trust the
              others more.
            </p>
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
          <ButtonLink to={`/bikes/${bike.tag}/cost`}>What it costs</ButtonLink>
          <Button onClick={() => setAsking("odometer")}>Note the odometer</Button>
          <Button onClick={() => setAsking("chain")}>New chain fitted</Button>
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
  const d = useDistance();
  return (
    <details className="mt-1 text-note">
      <summary className="flex min-h-(--target) items-center font-semibold">The same in numbers</summary>
      <div className="overflow-x-auto">
        <Table className="font-mono">
          <thead className="text-left font-sans text-fine text-quiet">
            <tr>
              <th className="font-semibold">Day</th>
              <th className="font-semibold">Hard {d.unit}</th>
              <th className="font-semibold">Wear</th>
              <th className="font-semibold">Tool</th>
            </tr>
          </thead>
          <tbody>
            {data.readings.toReversed().map((r) => (
              <tr key={r.entry_id} className="border-t border-base-300">
                <td className="pr-3">{shortDay(r.taken_at)}</td>
                <td className="pr-3">{whole(d.of(r.hard_km))}</td>
                <td className="pr-3">{readWords(r)}</td>
                <td className="font-sans">{r.instrument}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </div>
      {data.forecast && (
        <p className="mt-1">
          Left: {whole(d.of(data.forecast.left_hard_km.p10))} / {whole(d.of(data.forecast.left_hard_km.p50))} /{" "}
          {whole(d.of(data.forecast.left_hard_km.p90))} wear {d.unit} (10, 50 and 90 in 100). As this bike is usually
          ridden, a {d.unit} counts as {digits(data.hard_per_km, 2)}.
        </p>
      )}
      {data.segments.length > 0 && (
        <div className="mt-3 overflow-x-auto">
          <Table className="font-mono">
            <caption className="text-left font-sans text-fine font-semibold text-quiet">
              Ridden between two looks at the odometer
            </caption>
            <thead className="text-left font-sans text-fine text-quiet">
              <tr>
                <th className="font-semibold">Until</th>
                <th className="font-semibold">{d.unit}</th>
                <th className="font-semibold">Counts as</th>
                <th className="font-semibold">Hard {d.unit}</th>
              </tr>
            </thead>
            <tbody>
              {data.segments.toReversed().map((s) => (
                <tr key={s.to} className="border-t border-base-300">
                  <td className="pr-3">{shortDay(s.to)}</td>
                  <td className="pr-3">{whole(d.of(s.km))}</td>
                  <td className="pr-3">
                    × {digits(s.factor, 2)} {!s.usual && <span className="font-sans">as noted</span>}
                  </td>
                  <td>{whole(d.of(s.hard_km))}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        </div>
      )}
    </details>
  );
}

function NoteOdometer({ bike, last, close }: { bike: Bike; last: number | undefined; close: () => void }) {
  const d = useDistance();
  const [shares, setShares] = useState<Shares | null>(null); // null: ridden as usual
  const send = useWrite(
    (body: { km: number; new_computer: boolean; mix?: Mix }, key) =>
      ask(
        api.POST("/bikes/{tag}/odometer", {
          params: { path: { tag: bike.tag }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    [{ topic: "bike", tag: bike.tag }],
  );
  const outOfRange = faultAt(send.error, "odometer_km") ?? faultAt(send.error, "km");
  const lower = send.error instanceof Problem && send.error.body.code === "lower-than-last";
  const form = useForm({
    start: { km: "" },
    reads: field.object({ km: field.needed(field.measured("distance", undefined, d.wrong), d.wrong) }),
    by: send,
  });
  const submit = (new_computer: boolean) => {
    const read = shares ? readShares(shares) : {};
    form.submit(
      ({ km }) => send.mutate({ km, new_computer, ...(read.mix ? { mix: read.mix } : {}) }, { done: close }),
      { mix: read.fault },
    );
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
          value={form.typed.km}
          set={(km) => form.set({ km })}
          hint={last === undefined ? undefined : `Last read: ${whole(d.of(last))} ${d.unit}`}
          fault={form.fault("km") ?? (lower ? sayError(send.error) : outOfRange)}
        />
        <Choice
          label="Ridden since then"
          value={shares ? "other" : "usual"}
          options={[
            { value: "usual", words: "As usual" },
            { value: "other", words: "Harder or easier" },
          ]}
          choose={(v) => setShares(v === "usual" ? null : noShares)}
        />
        {shares && (
          <fieldset className="min-w-0">
            <legend className="fieldset-legend">Shares of that riding, together 100 %</legend>
            <div className="grid grid-cols-2 gap-2 sm:grid-cols-3">
              {Object.entries(mixWords).map(([name, words]) => (
                <Field key={name} label={words} unit="%">
                  {(a) => (
                    <Input
                      {...a}
                      name={name}
                      inputMode="decimal"
                      maxLength={5}
                      value={shares[name as keyof Shares]}
                      onChange={(e) => setShares({ ...shares, [name]: e.target.value })}
                    />
                  )}
                </Field>
              ))}
            </div>
            {form.fault("mix") && <p className="mt-1 text-fine font-semibold text-error">{form.fault("mix")}</p>}
          </fieldset>
        )}
        {send.isError && !lower && !outOfRange && !faultAt(send.error, "mix") && <Failure error={send.error} />}
        <div className="flex flex-wrap gap-3">
          <Button type="submit" kind="main" disabled={send.isPending}>
            Note it
          </Button>
          {lower && (
            <Button disabled={send.isPending} onClick={() => submit(true)}>
              New bike computer fitted
            </Button>
          )}
          <Button kind="quiet" onClick={close}>
            Cancel
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** The middle of a day: when it was is not asked. */
const noonOf = (day: string) => new Date(momentsOf(day, 720)[0] ?? 0).toISOString();

function FitChain({ bike, close }: { bike: Bike; close: () => void }) {
  const send = useWrite(
    (body: { fitted_at?: string; odometer_km?: number; what?: string }, key) =>
      ask(
        api.POST("/bikes/{tag}/chain", {
          params: { path: { tag: bike.tag }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    [{ topic: "bike", tag: bike.tag }],
  );
  const d = useDistance();
  const form = useForm({
    start: { fitted_at: typedDay(today()), odometer_km: "", what: "" },
    reads: field.object({
      fitted_at: field.day(true),
      odometer_km: field.measured("distance", undefined, d.wrong),
      what: field.words,
    }),
    by: send,
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    form.submit(({ fitted_at: day, odometer_km, what }) => {
      const then = day === undefined || day === today() ? {} : { fitted_at: noonOf(day) };
      send.mutate(
        { ...then, ...(odometer_km === undefined ? {} : { odometer_km }), ...(what ? { what } : {}) },
        { done: close },
      );
    });
  };
  return (
    <Dialog title="A new chain was fitted" close={close}>
      <p>Its wear starts again here. What the chain before it showed moves this forecast half-way.</p>
      <p className="border-l-4 border-rust pl-3">
        Warn the rider: a new chain on a worn cassette can skip under load. Seat and load-test the joining link; a chain
        that opens throws the rider.
      </p>
      <form className="flex flex-col gap-3" onSubmit={submit}>
        <WhenField
          label="On"
          ask="day"
          past
          name="fitted"
          value={form.typed.fitted_at}
          set={(fitted_at) => form.set({ fitted_at })}
          fault={form.fault("fitted_at")}
        />
        <Field label="Which chain" hint="As the shop calls it: twelve-speed, waxed before fitting.">
          {(a) => <Input {...a} {...form.text("what")} maxLength={120} />}
        </Field>
        <OdometerField
          label="Odometer then, if known"
          value={form.typed.odometer_km}
          set={(odometer_km) => form.set({ odometer_km })}
          fault={form.fault("odometer_km")}
        />
        {form.failure && <Failure error={form.failure} />}
        <div className="flex flex-wrap gap-3">
          <Button type="submit" kind="main" disabled={send.isPending}>
            Note the new chain
          </Button>
          <Button kind="quiet" onClick={close}>
            Cancel
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
