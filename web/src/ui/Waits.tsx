import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, type WaitAction, type WaitView } from "../api/client";
import { bathsOptions, waitsOptions } from "../api/queries";
import { useRunning } from "../outbox/job";
import { stationWords, tooLate, waitWords } from "../words/waits";
import { Button, Input } from "./controls";
import * as field from "./fields";
import { useForm } from "./form";
import { clock } from "./format";
import { useKept } from "./kept";
import { Dialog, Failure, Field } from "./parts";
import { faultAt, namesFields, useWrite, writeOnce } from "./sending";
import { Tag } from "./Tag";
import { offerBack } from "./undo";
import { amount } from "./units";
import { calls, clockOf, nextEnd, type WaitState, waitState } from "./waits";

/** The time by the server's clock, each second. */
export function useServerTime(): number {
  const behind = useQuery(waitsOptions).data?.behind ?? 0;
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const tick = window.setInterval(() => setNow(Date.now()), 1000);
    return () => window.clearInterval(tick);
  }, []);
  return now + behind;
}

const isBoolean = (v: unknown): v is boolean => typeof v === "boolean";

/** Along the bottom of every screen: what runs by itself anywhere in the shop, the next to end at the left. */
export function WaitsStrip() {
  const waits = useRunning();
  const now = useServerTime();
  const [sound, setSound] = useKept("pony.sound", false, isBoolean);
  const [shown, setShown] = useState<string | "new" | null>(null);
  const states = waits.toSorted((a, b) => nextEnd(a) - nextEnd(b)).map((w) => ({ wait: w, state: waitState(w, now) }));
  const calling = states.filter((s) => calls(s.state)).length;
  useCall(calling, sound);
  useTitle(calling);
  const open = states.find((s) => s.wait.id === shown);
  return (
    <section
      aria-label="Waits"
      className={`no-print flex min-w-0 items-center gap-2 bg-frame px-2 py-1.5 text-frame-ink sm:col-span-2 ${waits.length === 0 ? "max-sm:hidden" : ""}`}
    >
      <span className="w-14 shrink-0 text-mark leading-tight text-frame-quiet max-sm:hidden">
        {waits.length === 0 ? "No timers" : "Timers"}
      </span>
      <ul className="flex min-w-0 grow gap-2 overflow-x-auto">
        {states.map(({ wait, state }) => (
          <li key={wait.id} className="shrink-0">
            <Running wait={wait} state={state} open={() => setShown(wait.id)} />
          </li>
        ))}
        <HotPots sound={sound} />
      </ul>
      <button
        type="button"
        className="btn btn-frame shrink-0 border-frame-quiet/50 text-note"
        onClick={() => setShown("new")}
      >
        Timer
      </button>
      <button
        type="button"
        aria-pressed={sound}
        className={`btn btn-frame shrink-0 border-frame-quiet/50 text-note ${sound ? "" : "text-frame-quiet"}`}
        onClick={() => {
          setSound(!sound);
          if (!sound) ring(); // also what allows it from here on
        }}
      >
        {sound ? "Sound on" : "Sound off"}
      </button>
      {/* Said once as one begins to call: what counts down is not read out each second. */}
      <p role="status" className="sr-only">
        {states
          .filter((s) => calls(s.state))
          .map((s) => callWords(s.wait, s.state))
          .join(" ")}
      </p>
      {open && <WaitDialog wait={open.wait} state={open.state} close={() => setShown(null)} />}
      {shown === "new" && <NewTimer close={() => setShown(null)} />}
    </section>
  );
}

/** Wax pots that are on, with what their probes read; one that is too hot calls. */
function HotPots({ sound }: { sound: boolean }) {
  const navigate = useNavigate();
  const baths = useQuery({
    ...bathsOptions,
    // A probe tells nobody that it warms, so it is asked while a pot is on.
    refetchInterval: (q) => (q.state.data?.some((b) => b.pot?.heating_since) ? 10_000 : false),
  }).data;
  const on = (baths ?? []).filter((b) => b.pot?.heating_since !== undefined || b.pot?.state === "alarm");
  const hot = on.filter((b) => b.pot?.state === "hot" || b.pot?.state === "alarm").length;
  useCall(hot, sound);
  return on.map((b) => (
    <li key={b.id} className={`shrink-0 ${b.pot?.state === "hot" || b.pot?.state === "alarm" ? "-order-1" : ""}`}>
      <button
        type="button"
        data-testid="pot-on"
        onClick={() => navigate("/stock/baths")}
        className={`flex min-h-(--target) items-center gap-3 rounded-field px-3 py-1 text-left ${
          b.pot?.state === "hot" || b.pot?.state === "alarm" ? "calling bg-error text-error-content" : "bg-frame-raised"
        }`}
      >
        <span className="text-fine leading-tight">
          <b className="block max-w-36 truncate text-note">{b.facts.name}</b>
          {b.pot?.state === "alarm" ? "ALARM: heat off" : b.pot?.state === "hot" ? "too hot" : "on"}
          {b.pot?.simulated && ", simulated"}
        </span>
        <span className="font-mono text-xl font-semibold">
          {b.pot?.celsius === undefined ? "?" : amount("temperature", b.pot.celsius)}
        </span>
      </button>
    </li>
  ));
}

function Running({ wait, state, open }: { wait: WaitView; state: WaitState; open: () => void }) {
  const call = calls(state);
  const bar = state.kind === "runs" || state.kind === "clock" ? state.share : 1;
  return (
    <button
      type="button"
      onClick={open}
      id={`wait-${wait.id}`}
      data-testid="wait"
      data-state={state.kind}
      className={`relative flex min-h-(--target) items-center gap-3 overflow-hidden rounded-field py-1 pr-3 pl-2 text-left ${
        call ? "calling bg-accent text-accent-content" : "bg-frame-raised"
      }`}
    >
      <span className="min-w-0">
        {wait.tag ? <Tag tag={wait.tag} size="small" /> : <span className="font-semibold">Shop</span>}
        <span className="block max-w-44 truncate text-fine leading-tight">
          {waitWords(wait.what)}
          {wait.place && ` · ${stationWords(wait.place)}`}
        </span>
      </span>
      <span className="font-mono text-xl font-semibold">{sayState(state)}</span>
      <span
        aria-hidden
        className={`absolute bottom-0 left-0 h-[4px] ${state.kind === "late" ? "bg-error" : call ? "bg-accent-content/60" : "bg-accent"}`}
        style={{ width: `${bar * 100}%` }}
      />
    </button>
  );
}

/** What a wait that calls says to who does not see it. */
function callWords(w: WaitView, s: WaitState): string {
  const what = `${waitWords(w.what)}${w.tag ? `, ${w.tag}` : ""}`;
  switch (s.kind) {
    case "late":
      return `Too long: ${what}: ${tooLate(w.what)}.`;
    case "over":
      return `Done: ${what}.`;
    default:
      return `Nearly over: ${what}.`;
  }
}

function sayState(s: WaitState): string {
  switch (s.kind) {
    case "runs":
    case "clock":
      return clockOf(s.left);
    case "over":
      return s.late !== undefined && s.late < 10 * 60_000 ? `late in ${clockOf(s.late)}` : "done";
    case "late":
      return `+${clockOf(s.by)}`;
  }
}

const timeOf = clock;

function WaitDialog({ wait, state, close }: { wait: WaitView; state: WaitState; close: () => void }) {
  const navigate = useNavigate();
  const [reason, setReason] = useState("");
  const [minutes, setMinutes] = useState("10");
  const client = useQueryClient();
  const send = useWrite(
    async (body: WaitAction, key) => {
      const params = { path: { wait: wait.id }, header: { "Idempotency-Key": key } };
      const after = await ask(api.POST("/waits/{wait}", { params, body }));
      if (body.action !== "extend")
        offerBack(`Ended: ${waitWords(wait.what)}${wait.tag ? `, ${wait.tag}` : ""}`, async () => {
          const path = { wait: wait.id };
          const back = () => ask(api.POST("/waits/{wait}", { params: { path }, body: { action: "take-back" } }));
          await writeOnce(client, back, { topic: "job" });
        });
      return after;
    },
    [{ topic: "job" }],
    close,
  );
  const over = state.kind === "over" || state.kind === "late";
  const words = waitWords(wait.what);
  const title = words.charAt(0).toUpperCase() + words.slice(1);
  return (
    <Dialog title={`${title}${wait.tag ? `, ${wait.tag}` : ""}`} close={close}>
      <p className="font-mono text-reading leading-none font-semibold">{sayState(state)}</p>
      <p className="text-note text-quiet">
        Begun {timeOf(wait.began_at)}
        {state.kind !== "clock" && `, at the least until ${timeOf(wait.least_at)}`}
        {wait.most_at && `, at the most until ${timeOf(wait.most_at)}`}
      </p>
      {state.kind === "clock" && <p>Must be lubricated before it reaches zero: {tooLate(wait.what)}.</p>}
      {state.kind === "over" && state.late !== undefined && (
        <p>
          In {clockOf(state.late)} it is too late: {tooLate(wait.what)}.
        </p>
      )}
      {state.kind === "late" && <p className="font-semibold text-error">Too long: {tooLate(wait.what)}.</p>}
      {wait.reason && <p className="text-quiet">Made longer: {wait.reason}</p>}
      {send.isError && !namesFields(send.error) && <Failure error={send.error} />}
      <div className="flex flex-wrap gap-2">
        {over && (
          <Button kind="main" onClick={() => send.mutate({ action: "take" })}>
            Take it
          </Button>
        )}
        {wait.job_id && (
          <Button
            onClick={() => {
              close();
              navigate(`/jobs/${wait.job_id}`);
            }}
          >
            Open the job
          </Button>
        )}
      </div>
      {!over && (
        <>
          <Field label="Why" fault={faultAt(send.error, "reason")}>
            {(a) => (
              <Input {...a} name="reason" maxLength={200} value={reason} onChange={(e) => setReason(e.target.value)} />
            )}
          </Field>
          <div className="flex flex-wrap items-end gap-2">
            <Button onClick={() => send.mutate({ action: "end", reason })}>End it now</Button>
            {state.kind === "runs" && (
              <>
                <div className="w-28">
                  <Field label="Longer by" unit="min" fault={faultAt(send.error, "minutes")}>
                    {(a) => (
                      <Input
                        {...a}
                        name="minutes"
                        inputMode="numeric"
                        value={minutes}
                        onChange={(e) => setMinutes(e.target.value)}
                      />
                    )}
                  </Field>
                </div>
                <Button onClick={() => send.mutate({ action: "extend", minutes: Number(minutes) || 0, reason })}>
                  Make it longer
                </Button>
              </>
            )}
          </div>
        </>
      )}
      <Button kind="quiet" className="self-start" onClick={close}>
        Close
      </Button>
    </Dialog>
  );
}

/** A timer that belongs to no job: the shop's kitchen timer. */
function NewTimer({ close }: { close: () => void }) {
  const send = useWrite(
    (body: { what: string; minutes: number }, key) =>
      ask(api.POST("/waits", { params: { header: { "Idempotency-Key": key } }, body })),
    [{ topic: "job" }],
    close,
  );
  const form = useForm({
    start: { what: "", minutes: "10" },
    reads: field.object({ what: field.line, minutes: field.orElse(field.whole, 0) }),
    by: send,
  });
  return (
    <Dialog title="Start a timer" close={close}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          form.submit((timer) => send.mutate(timer));
        }}
      >
        <Field label="What for" fault={form.fault("what")}>
          {(a) => <Input {...a} {...form.text("what")} maxLength={60} />}
        </Field>
        <Field label="For" unit="min" fault={form.fault("minutes")}>
          {(a) => <Input {...a} {...form.text("minutes")} name="timer_minutes" inputMode="numeric" />}
        </Field>
        {form.failure && <Failure error={form.failure} />}
        <div className="flex gap-2">
          <Button type="submit" kind="main" disabled={send.isPending}>
            Start timer
          </Button>
          <Button kind="quiet" onClick={close}>
            Cancel
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** Calls by sound, where a tap has allowed it, when more call than before. */
function useCall(calling: number, sound: boolean): void {
  const before = useRef(calling);
  useEffect(() => {
    if (calling > before.current && sound) ring();
    before.current = calling;
  }, [calling, sound]);
}

/** Says in the window's title how many waits call. */
function useTitle(calling: number): void {
  useEffect(() => {
    const plain = document.title.replace(/^\(\d+\) /, "");
    document.title = calling > 0 ? `(${calling}) ${plain}` : plain;
  }, [calling]);
}

let audio: AudioContext | undefined;

/** Two notes, a fifth apart. */
function ring(): void {
  try {
    audio ??= new AudioContext();
    for (const [pitch, at] of [
      [660, 0],
      [990, 0.22],
    ] as const) {
      const note = audio.createOscillator();
      const loud = audio.createGain();
      note.frequency.value = pitch;
      loud.gain.setValueAtTime(0.25, audio.currentTime + at);
      loud.gain.exponentialRampToValueAtTime(0.001, audio.currentTime + at + 0.5);
      note.connect(loud).connect(audio.destination);
      note.start(audio.currentTime + at);
      note.stop(audio.currentTime + at + 0.5);
    }
  } catch {
    // no sound here: it still flashes
  }
}
