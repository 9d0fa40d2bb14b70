import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, ask, type Bath, type BathFacts } from "../../api/client";
import { bathsOptions } from "../../api/queries";
import { BathDrawing } from "../../draw/BathDrawing";
import { Button, Input, Key } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { dayAndTime, shortDay } from "../../ui/format";
import { useCommands } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Choice, Dialog, Empty, Failure, Field, Tick } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { amount, litres, materialAmount, range, signOf, understood, wrongFor } from "../../ui/units";
import { useServerTime } from "../../ui/Waits";
import { StoresHead } from "./StoresHead";

const kindWords: Record<Bath["kind"], string> = {
  "ultrasonic-tank": "Ultrasonic tank",
  "solvent-jar": "Solvent jar",
  "soak-tub": "Soak tub",
  "lubricant-bath": "Heated lubricant bath",
  "wax-pot": "Wax pot",
};

/** The standing baths as vessels, with what each still bears, and the wax pot with its temperature. */
export function BathsPlace() {
  const baths = useQuery({ ...bathsOptions, refetchInterval: 15_000 }); // a probe tells nobody that it warms
  const [adding, setAdding] = useState(false);
  useCommands({ n: { words: "Fill a new bath", may: "addBath", run: () => setAdding(true) } });
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <StoresHead />
      <div className="flex flex-wrap items-center justify-between gap-3">
        <Heading className="text-xl">Standing baths</Heading>
        <Button kind="main" may="addBath" className="max-sm:w-full" onClick={() => setAdding(true)}>
          Fill a new bath <Key>N</Key>
        </Button>
      </div>
      <Fetched query={baths} what="the baths">
        {(all) =>
          all.length === 0 ? (
            <section className="card card-border bg-base-100">
              <Empty title="No bath stands yet.">
                <p>
                  Fill the ultrasonic tank, a solvent jar or the wax pot here, and each load is counted until it is
                  spent.
                </p>
              </Empty>
            </section>
          ) : (
            <ul className="grid grid-cols-[minmax(0,1fr)] gap-3 sm:grid-cols-2 xl:grid-cols-3">
              {all.map((b) => (
                <Vat key={b.id} bath={b} />
              ))}
            </ul>
          )
        }
      </Fetched>
      <p className="text-note text-quiet">
        Dispose through your local authority or waste contractor; never to drain or ground. Labels come before any
        figure here.
      </p>
      {adding && <BathForm close={() => setAdding(false)} />}
    </div>
  );
}

function Vat({ bath: b }: { bath: Bath }) {
  const now = useServerTime();
  const [sure, setSure] = useState<"renew" | "retire" | "settle" | null>(null);
  const send = useWrite(
    (body: { action: "settle" | "renew" | "heat" | "cool" | "retire" }, key) =>
      ask(api.POST("/baths/{bath}", { params: { path: { bath: b.id }, header: { "Idempotency-Key": key } }, body })),
    [{ topic: "stores" }],
    () => setSure(null),
  );
  const settles = b.settling_to !== undefined && Date.parse(b.settling_to) > now;
  const spent = b.left === 0;
  return (
    <li className="card card-border bg-base-100 flex flex-col gap-2 p-4" data-testid="bath">
      <div className="flex gap-4">
        <BathDrawing left={b.left} points={b.points} settles={settles} />
        <div className="min-w-0 wrap-anywhere">
          <p className="text-fine font-semibold text-quiet">{kindWords[b.kind]}</p>
          <h2 className="text-lg break-words">{b.facts.name}</h2>
          <p className="text-note text-quiet">
            {b.facts.fluid}
            {b.facts.strength !== undefined && `, ${Math.round(b.facts.strength)} %`}
            {b.kind === "wax-pot"
              ? `, ${materialAmount(b.grams_left ?? 0, "g")} left`
              : `, ${litres(b.facts.volume_ml)}`}
          </p>
          <p className={`mt-1 ${spent ? "font-semibold text-error" : ""}`}>
            {spent
              ? "Used up: change the fluid"
              : b.kind === "wax-pot"
                ? `${b.left} of ${b.points} chains left`
                : `${b.left} of ${b.points} points left`}
          </p>
          {settles && b.settling_to && (
            <p className="text-note text-due-ink">Settles until {dayAndTime(b.settling_to)}</p>
          )}
          {b.facts.clean_only && <p className="text-note">New, clean chains only</p>}
          <p className="text-fine text-quiet">Filled {shortDay(b.filled_at)}</p>
        </div>
      </div>
      {b.pot && <Pot bath={b} heat={(on) => send.mutate({ action: on ? "heat" : "cool" })} />}
      {send.isError && <Failure error={send.error} />}
      <div className="mt-auto flex flex-wrap gap-2">
        <Button may="doBath" onClick={() => setSure("renew")}>
          Renew
        </Button>
        {b.settles_more && (
          <Button may="doBath" onClick={() => setSure("settle")}>
            Let it settle
          </Button>
        )}
        <Button kind="quiet" may="doBath" className="text-note" onClick={() => setSure("retire")}>
          Remove
        </Button>
      </div>
      {sure && (
        <Dialog title={`${b.facts.name}: ${sureWords[sure].title}`} close={() => setSure(null)}>
          <p>{sureWords[sure].what}</p>
          <p className="border-l-4 border-rust pl-3">
            Spent fluid into its container, never to drain or ground. Gloves and eye protection.
          </p>
          <div className="flex gap-2">
            <Button kind="main" disabled={send.isPending} onClick={() => send.mutate({ action: sure })}>
              {sureWords[sure].action}
            </Button>
            <Button kind="quiet" onClick={() => setSure(null)}>
              Cancel
            </Button>
          </div>
        </Dialog>
      )}
    </li>
  );
}

const sureWords = {
  renew: {
    title: "renew",
    what: "What is in it goes to waste and is noted; the count starts again.",
    action: "It is renewed",
  },
  settle: {
    title: "let it settle",
    what: "It stands a day, is decanted through a filter, and gets points back. A tenth stays behind as sludge, which is noted.",
    action: "Let it settle",
  },
  retire: {
    title: "keep it no longer",
    what: "It is emptied, and what was in it is noted as waste.",
    action: "It is emptied",
  },
};

/** The pot's temperature on its line: the band to be held, and the alarm. */
function Pot({ bath: b, heat }: { bath: Bath; heat: (on: boolean) => void }) {
  const p = b.pot;
  if (!p) return null;
  const on = p.heating_since !== undefined;
  const at = (c: number) => `${Math.min(100, Math.max(0, (100 * (c - 15)) / (p.alarm_c + 10 - 15)))}%`;
  const said = {
    cold: "below its band",
    ready: "at working temperature",
    hot: "too hot: turn it down",
    alarm: "ALARM: heat off, lid on",
  };
  return (
    <div className="rounded-field border border-base-300 p-3" data-testid="pot">
      <p className="flex items-baseline justify-between gap-3">
        <span>
          {p.celsius === undefined ? (
            "No probe"
          ) : (
            <span className="font-mono text-2xl font-semibold">{amount("temperature", p.celsius)}</span>
          )}{" "}
          <span
            className={p.state === "alarm" || p.state === "hot" ? "font-semibold text-error" : "text-note text-quiet"}
          >
            {on || p.state !== "cold" ? p.state && said[p.state] : "off"}
          </span>
        </span>
        {p.simulated && <span className="text-fine font-semibold text-quiet">simulated probe</span>}
      </p>
      <div className="relative my-2 h-3 rounded-full bg-base-300" aria-hidden>
        <span
          className="absolute inset-y-0 bg-success/60"
          style={{ left: at(p.least_c), width: `calc(${at(p.most_c)} - ${at(p.least_c)})` }}
        />
        <span className="absolute inset-y-[-3px] w-[3px] bg-error" style={{ left: at(p.alarm_c) }} />
        {p.celsius !== undefined && (
          <span className="absolute inset-y-[-4px] w-[4px] bg-base-content" style={{ left: at(p.celsius) }} />
        )}
      </div>
      <p className="text-fine text-quiet">
        Held at {range("temperature", p.least_c, p.most_c)}, alarm at {amount("temperature", p.alarm_c)}. Never a flame,
        never unattended, lid at hand, no water near; chains bone dry.
      </p>
      <Button may="doBath" className="mt-2" onClick={() => heat(!on)}>
        {on ? "Heat off" : "Heat on"}
      </Button>
    </div>
  );
}

/** What is filled: a pot by weight. */
const bathOf = (pot: boolean) => {
  const unit = pot ? "mass" : "volume";
  return field.facts<BathFacts>(
    field.object({
      name: field.line,
      fluid: field.line,
      strength: field.number,
      volume_ml: field.needed(field.measured(unit), wrongFor(unit)),
      clean_only: field.tick,
    }),
  );
};

function BathForm({ close }: { close: () => void }) {
  const [kind, setKind] = useState<Bath["kind"]>("ultrasonic-tank");
  const send = useWrite(
    (facts: BathFacts, key) =>
      ask(api.POST("/baths", { params: { header: { "Idempotency-Key": key } }, body: { kind, facts } })),
    [{ topic: "stores" }],
    close,
  );
  const pot = kind === "wax-pot";
  const start = { name: "", fluid: "", strength: "", volume_ml: "", clean_only: false };
  const form = useForm({ start, reads: bathOf(pot), by: send, at: "facts" });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    form.submit((facts) => send.mutate(facts));
  };
  const line = (name: Exclude<keyof typeof start, "clean_only">, label: string, unit?: string) => (
    <Field
      label={label}
      unit={unit}
      hint={name === "volume_ml" ? understood(pot ? "mass" : "volume", form.typed.volume_ml) : undefined}
      fault={form.fault(name)}
    >
      {(a) => <Input {...a} {...form.text(name)} name={name.replace("_ml", "")} maxLength={120} />}
    </Field>
  );
  return (
    <Dialog title="Fill a new bath" close={close}>
      <form className="flex flex-col gap-3" noValidate onSubmit={submit}>
        <Choice
          label="What it is"
          value={kind}
          options={(Object.keys(kindWords) as Bath["kind"][]).map((value) => ({ value, words: kindWords[value] }))}
          choose={setKind}
        />
        {line("name", "Name")}
        {line("fluid", "What is in it")}
        <div className="grid grid-cols-2 gap-3">
          {line("volume_ml", "How much", signOf(pot ? "mass" : "volume"))}
          {!pot && line("strength", "Strength", "%")}
        </div>
        {kind === "ultrasonic-tank" && (
          <Tick on={form.typed.clean_only} set={(clean_only) => form.set({ clean_only })}>
            For new, clean chains only
          </Tick>
        )}
        {form.failure && <Failure error={form.failure} />}
        <div className="flex gap-2">
          <Button type="submit" kind="main" disabled={send.isPending}>
            It is filled
          </Button>
          <Button kind="quiet" onClick={close}>
            Cancel
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
