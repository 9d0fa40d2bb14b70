import { useQuery } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useState } from "react";
import { useNavigate, useParams } from "react-router";
import {
  api,
  ask,
  type Change,
  type Instrument,
  type InstrumentFacts,
  type LedgerEntry,
  type ZeroReading,
} from "../../api/client";
import { instrumentOptions, zeroQuestion } from "../../api/queries";
import { useAnswer } from "../../ui/answer";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Input, Key, Select } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { EditDialog } from "../../ui/FormDialog";
import * as field from "../../ui/fields";
import { type FormOf, useForm } from "../../ui/form";
import { dayAndTime, percent, shortDay } from "../../ui/format";
import { useMay, useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Choice, Dialog, Failure, Field, Tick } from "../../ui/parts";
import { faultAt, useWrite } from "../../ui/sending";
import { read as length } from "../../ui/units";
import { factWords } from "../../words/bikes";
import { kindLong } from "../../words/tools";
import { number } from "../bikes/draft";
import { ZeroState } from "./ToolsPlace";

const touched: Change[] = [{ topic: "instruments" }];

/** One measuring tool: its zero, its facts, and what happened to it. */
export function ToolPage() {
  const { id = "" } = useParams();
  const tool = useQuery(instrumentOptions(id));
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Fetched query={tool} what="the tool">
        {(v) => <Shown key={v.instrument.id} tool={v.instrument} history={v.history} />}
      </Fetched>
    </div>
  );
}

function Shown({ tool, history }: { tool: Instrument; history: LedgerEntry[] }) {
  const may = useMay("changeInstrument");
  const [doing, setDoing] = useState<"nothing" | "changing" | "retiring">("nothing");
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-3 lg:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
      <section className="card card-border bg-base-100 flex flex-col gap-3 p-4" aria-label="Tool">
        <div>
          <Heading className="text-xl break-words">{tool.name}</Heading>
          <p className="text-quiet">
            {kindLong[tool.kind]}
            {tool.marks_pct?.length ? `: ${tool.marks_pct.join(" · ")} %` : ""}
          </p>
          <p className="text-quiet">
            {tool.spreads
              ? "Spreads the rollers and counts their wear in: it reads high."
              : tool.kind === "pull-off"
                ? "A screening look, never enough alone to condemn a chain."
                : "Does not spread the rollers."}
          </p>
        </div>
        {tool.retired ? (
          <p role="status" className="border-l-4 border-warning pl-3">
            Retired. What it read stays on record with its name and zero of then.
          </p>
        ) : (
          tool.kind !== "pull-off" && <ZeroCheck tool={tool} />
        )}
        {may && (
          <div className="flex flex-wrap gap-2 border-t border-base-300 pt-3">
            <Button onClick={() => setDoing("changing")}>Change</Button>
            <Button onClick={() => setDoing("retiring")}>{tool.retired ? "Use again" : "Retire"}</Button>
          </div>
        )}
      </section>
      <History entries={history} />
      {doing === "changing" && <ChangeTool tool={tool} close={() => setDoing("nothing")} />}
      {doing === "retiring" && <RetireTool tool={tool} close={() => setDoing("nothing")} />}
    </div>
  );
}

/** Holding the tool to a new chain: what it reads there is its zero. */
function ZeroCheck({ tool }: { tool: Instrument }) {
  const { shop } = useSession();
  const [text, setText] = useState("");
  const [links, setLinks] = useState("");
  const [out, setOut] = useState(false);
  const typed: ZeroReading = tool.compares
    ? { marks_stay_out: out }
    : { text, ...(/^\d{1,4}$/.test(links) ? { links: Number(links) } : {}) };
  const asked = !tool.compares && text.trim() !== "" ? typed : null;
  const read = useAnswer(zeroQuestion(tool.id, asked));
  const send = useWrite(
    (body: ZeroReading, key) =>
      ask(
        api.POST("/instruments/{instrument}/zero-checks", {
          params: { path: { instrument: tool.id }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    touched,
  );
  const gauge = tool.kind === "gauge-percent";
  const error = send.error ?? read.error;
  const fault = faultAt(error, "text");
  const understood = read.answer;
  return (
    <form
      className="flex flex-col gap-3 border-t border-base-300 pt-3"
      aria-label="Zero check"
      onSubmit={(e: FormEvent) => {
        e.preventDefault();
        if (send.isPending) return;
        send.mutate(typed, {
          done: () => {
            setText("");
            setOut(false);
          },
        });
      }}
    >
      <h2 className="text-base">
        <ZeroState tool={tool} />
      </h2>
      {tool.compares ? (
        <Tick on={out} set={setOut}>
          Held to a new chain, none of its marks drops in
        </Tick>
      ) : (
        <div className="grid gap-3 sm:grid-cols-[minmax(0,1fr)_150px]">
          <Field
            label="It reads, on a new chain"
            unit={gauge ? "%" : shop.length_unit}
            fault={fault}
            hint={
              understood
                ? understood.length_mm !== undefined
                  ? `${length(understood.length_mm)} over ${understood.links} links: ${percent(understood.offset_pct)} % is taken off what it reads`
                  : `${percent(understood.offset_pct)} % is taken off what it reads`
                : "Read a chain fresh from its box, at the middle of the run."
            }
          >
            {(a) => (
              <Input
                {...a}
                name="zero"
                autoComplete="off"
                inputMode="decimal"
                maxLength={40}
                className="font-mono text-xl"
                value={text}
                onChange={(e) => {
                  setText(e.target.value);
                  send.reset();
                }}
              />
            )}
          </Field>
          {!gauge && (
            <Field label="Over links" fault={faultAt(error, "links")}>
              {(a) => (
                <Input
                  {...a}
                  name="links"
                  inputMode="numeric"
                  maxLength={4}
                  placeholder={tool.default_links ? String(tool.default_links) : "count them"}
                  value={links}
                  onChange={(e) => setLinks(e.target.value.replace(/\D/g, ""))}
                />
              )}
            </Field>
          )}
        </div>
      )}
      {send.isError && !fault && !faultAt(send.error, "links") && <Failure error={send.error} />}
      <Button
        type="submit"
        kind="main"
        className="self-start"
        disabled={send.isPending || (tool.compares ? !out : text.trim() === "")}
      >
        Note the zero check <Key>Enter</Key>
      </Button>
    </form>
  );
}

function History({ entries }: { entries: LedgerEntry[] }) {
  return (
    <section className="card card-border bg-base-100 self-start" aria-label="History">
      <h2 className="text-fine font-semibold text-quiet px-4 pt-3 pb-1">What happened to it</h2>
      {entries.length === 0 && <p className="px-4 pb-3 text-quiet">Nothing yet: it was here when the shop began.</p>}
      <ul>
        {entries.map((e) => (
          <li key={e.id} className="flex gap-3 border-t border-base-300 px-4 py-2" data-kind={e.kind}>
            <time
              dateTime={e.happened_at}
              title={dayAndTime(e.happened_at)}
              className="w-24 shrink-0 font-mono text-fine leading-6 text-quiet"
            >
              {shortDay(e.happened_at)}
            </time>
            <span className="min-w-0 grow">{historyLine(e)}</span>
            <span className="shrink-0 text-quiet">{e.by.split(" ")[0]}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function historyLine(e: LedgerEntry): ReactNode {
  switch (e.kind) {
    case "instrument-added":
      return "First used";
    case "instrument-changed":
      return `Changed: ${(e.changed ?? []).map((c) => factWords[c] ?? c).join(", ")}`;
    case "instrument-retired":
      return "Retired";
    case "instrument-restored":
      return "Use again";
    case "zero-checked":
      return (
        <>
          Zero checked: <span className="font-mono">{percent(e.offset_pct ?? 0)} %</span>
          {e.before_pct !== undefined && e.before_pct !== e.offset_pct && (
            <span className="text-quiet">, {percent(e.before_pct)} until then</span>
          )}
        </>
      );
    default:
      return e.kind;
  }
}

function RetireTool({ tool, close }: { tool: Instrument; close: () => void }) {
  const send = useWrite(
    () =>
      ask(
        api.PUT("/instruments/{instrument}/retired", {
          params: { path: { instrument: tool.id } },
          body: { version: tool.version, retired: !tool.retired },
        }),
      ),
    touched,
  );
  return (
    <Dialog title={tool.retired ? `Use ${tool.name} again?` : `Retire ${tool.name}?`} close={close}>
      <p>
        {tool.retired
          ? "It can be chosen again. Check its zero first."
          : "It can no longer be chosen. Readings taken with it stay, with its name and its zero at that time."}
      </p>
      {send.isError && <Failure error={send.error} />}
      <div className="flex flex-wrap gap-3">
        <Button kind="main" disabled={send.isPending} onClick={() => send.mutate(undefined, { done: close })}>
          {tool.retired ? "Put back" : "Retire it"}
        </Button>
        <Button kind="quiet" onClick={close}>
          Cancel
        </Button>
      </div>
    </Dialog>
  );
}

function ChangeTool({ tool, close }: { tool: Instrument; close: () => void }) {
  const send = useWrite(
    (body: { version: number; facts: InstrumentFacts }) =>
      ask(api.PUT("/instruments/{instrument}", { params: { path: { instrument: tool.id } }, body })),
    touched,
  );
  const form = useForm({
    start: factsOf(tool),
    reads: factsTyped(tool.kind),
    by: send,
    at: "facts",
    version: tool.version,
  });
  const submit = (over = form.version) => {
    form.over(over);
    form.submit((facts) => send.mutate({ version: over, facts }, { done: close }));
  };
  return (
    <EditDialog<Instrument>
      title={`Change ${tool.name}`}
      action="Save changes"
      send={submit}
      pending={send.isPending}
      error={send.error}
      facts={({ name, spreads, marks_pct: marks }) => ({ name, spreads, ...(marks ? { marks_pct: marks } : {}) })}
      close={close}
    >
      <ToolFields kind={tool.kind} form={form} />
    </EditDialog>
  );
}

/** Adding a tool to the bench. */
export function AddTool() {
  const navigate = useNavigate();
  const [kind, setKind] = useState<Instrument["kind"]>("ruler");
  const send = useWrite(
    (body: { kind: Instrument["kind"]; facts: InstrumentFacts }, key) =>
      ask(api.POST("/instruments", { params: { header: { "Idempotency-Key": key } }, body })),
    touched,
  );
  const form = useForm({ start: noFacts, reads: factsTyped(kind), by: send, at: "facts" });
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <form
        className="card card-border bg-base-100 flex max-w-2xl flex-col gap-4 p-4"
        noValidate
        onSubmit={(e: FormEvent) => {
          e.preventDefault();
          form.submit((facts) =>
            send.mutate({ kind, facts }, { done: (tool) => navigate(`/settings/tools/${tool.id}`) }),
          );
        }}
      >
        <Heading className="text-xl">Add a tool</Heading>
        <Field label="What it is">
          {(a) => (
            <Select {...a} name="kind" value={kind} onChange={(e) => setKind(e.target.value as Instrument["kind"])}>
              {Object.entries(kindLong).map(([k, words]) => (
                <option key={k} value={k}>
                  {words}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <ToolFields kind={kind} form={form} />
        {form.failure && <Failure error={form.failure} />}
        <div className="flex flex-wrap gap-3">
          <Button type="submit" kind="main" disabled={send.isPending}>
            Add the tool <Key>Enter</Key>
          </Button>
          <ButtonLink to="/settings/tools" kind="quiet">
            Cancel
          </ButtonLink>
        </div>
      </form>
    </div>
  );
}

type Typed = { name: string; spreads: "yes" | "no"; marks_pct: string };

const noFacts: Typed = { name: "", spreads: "no", marks_pct: "" };

const factsOf = (t: Instrument): Typed => ({
  name: t.name,
  spreads: t.spreads ? "yes" : "no",
  marks_pct: (t.marks_pct ?? []).join(", "),
});

const mayDiffer = (kind: Instrument["kind"]) => kind === "gauge-percent" || kind === "gauge-dropin";

/** What was typed of a tool; marks are separated by spaces, semicolons, or commas and spaces. */
const factsTyped = (kind: Instrument["kind"]) =>
  field.together((t: Typed): { is: InstrumentFacts; faults: Record<string, string> } => {
    const is: InstrumentFacts = { name: t.name.trim(), spreads: t.spreads === "yes" };
    if (kind !== "gauge-dropin") return { is, faults: {} };
    const text = t.marks_pct.trim();
    if (text === "") return { is: { ...is, marks_pct: [] }, faults: {} };
    const marks = text.split(/[;\s]+|,\s+/).map((p) => number(p.replace(/,$/, "")));
    const read = marks.filter((m) => m !== undefined);
    const faults = { marks_pct: `“${text}” is not a list of marks: write 0.5, 0.75.` };
    return { is: { ...is, marks_pct: read }, faults: read.length < marks.length ? faults : {} };
  });

function ToolFields({ kind, form }: { kind: Instrument["kind"]; form: FormOf<Typed> }) {
  const { typed, set } = form;
  return (
    <>
      <Field label="Name" hint="As the shop calls it: Caliper 2, the blue gauge." fault={form.fault("name")}>
        {(a) => <Input {...a} {...form.text("name")} maxLength={60} />}
      </Field>
      {kind === "gauge-dropin" && (
        <Field label="Its marks" unit="%" fault={form.fault("marks_pct")}>
          {(a) => <Input {...a} {...form.text("marks_pct")} name="marks" maxLength={80} placeholder="0.5, 0.75" />}
        </Field>
      )}
      {mayDiffer(kind) ? (
        <Choice
          label="Does it push two rollers apart?"
          value={typed.spreads}
          options={[
            { value: "yes", words: "Yes, it reads high by their play" },
            { value: "no", words: "No" },
          ]}
          choose={(spreads) => set({ spreads })}
        />
      ) : (
        kind === "caliper-inside" && (
          <p className="text-note text-quiet">Inside jaws push the rollers apart and count their wear in.</p>
        )
      )}
    </>
  );
}
