import { useQuery } from "@tanstack/react-query";
import { useEffect, useEffectEvent, useState } from "react";
import { useNavigate } from "react-router";
import {
  api,
  ask,
  type BenchAnswer,
  type BenchQuestion,
  type Instrument,
  type NewMeasurement,
  Unreachable,
} from "../../api/client";
import { benchQuestion, instrumentsOptions } from "../../api/queries";
import { CreepStrip } from "../../draw/CreepStrip";
import { useReach } from "../../outbox/reach";
import { type Answered, Asked, useAnswer } from "../../ui/answer";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Input, Key, PressButton } from "../../ui/controls";
import { useDistance } from "../../ui/distance";
import { Find } from "../../ui/Find";
import { percent } from "../../ui/format";
import { useSession, useWhyNot } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { OdometerField } from "../../ui/OdometerField";
import { Empty, Failure, Field, Waiting } from "../../ui/parts";
import { faultAt, useWrite } from "../../ui/sending";
import { amount, fine } from "../../ui/units";
import { findingWords, intervalWords, verdictWords, wearLine } from "../../words/wear";
import { Entering } from "./Entering";
import { type Action, type Bench, isEmpty, isUsed, nextEmpty, question, useBench } from "./state";
import { BikeOnBench, DrivetrainAsked, VerdictOf } from "./Verdict";

/** Measuring: what is read on the left, how it looks in the middle, what it means on the right. */
export function BenchPlace() {
  const tools = useQuery(instrumentsOptions);
  if (tools.isPending) return <Waiting what="the tools" />;
  if (tools.data === undefined)
    return (
      <div className="p-4">
        <div className="card card-border bg-base-100 p-4">
          <Failure error={tools.error} again={() => tools.refetch()} />
        </div>
      </div>
    );
  const first = tools.data[0];
  return first ? <AtBench tools={tools.data} first={first} /> : <NoTool />;
}

function NoTool() {
  return (
    <div className="p-4">
      <div className="card card-border bg-base-100">
        <Empty title="No measuring tool is set up.">
          <p>Add what the shop measures with; a steel ruler is enough to begin.</p>
          <ButtonLink to="/settings/tools/new" kind="main">
            Add a tool
          </ButtonLink>
        </Empty>
      </div>
    </div>
  );
}

function AtBench({ tools, first }: { tools: Instrument[]; first: Instrument }) {
  const { shop } = useSession();
  const [bench, act] = useBench(shop.wear_places);
  const [choosing, setChoosing] = useState<"no" | "bike" | "then-record">("no");
  const tool = tools.find((t) => t.id === bench.instrument) ?? first;
  const asked = question(bench, tool);
  const read = useAnswer(benchQuestion(asked));
  const recording = useRecording({ bench, act, asked, read, choose: () => setChoosing("then-record") });
  const onBench = <BikeOnBench bench={bench} act={act} choose={() => setChoosing("bike")} />;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-3 p-3 min-[700px]:grid-cols-[284px_minmax(0,1fr)] min-[1100px]:min-h-full min-[1100px]:grid-cols-[284px_minmax(0,1fr)_346px] min-[1100px]:grid-rows-[1fr_auto]">
      <Heading unseen>Measure{bench.tag ? ` ${bench.tag}` : ""}</Heading>
      <div className="card card-border bg-base-100 flex flex-col gap-2 p-3 min-[700px]:row-span-2">
        <div className="min-[1100px]:hidden">{onBench}</div>
        <Entering
          bench={bench}
          act={act}
          tools={tools}
          tool={tool}
          answer={read.answer}
          unit={shop.length_unit}
          enter={recording.enter}
          simulated={shop.simulated_tool === true}
        />
        {isUsed(bench) && (
          <Button
            kind="quiet"
            className="-ml-4 self-start text-note"
            onClick={() => act({ kind: "cleared", places: shop.wear_places })}
          >
            Clear
          </Button>
        )}
        {bench.cleared && !isUsed(bench) && (
          <Button className="self-start" onClick={() => act({ kind: "put-back" })}>
            Put back what was cleared
          </Button>
        )}
      </div>
      <Seen bench={bench} act={act} read={read} odometer={recording.odometerFault} />
      <div className="card card-border bg-base-100 flex min-w-0 flex-col gap-3 p-4">
        <div className="max-[1099px]:hidden">{onBench}</div>
        <DrivetrainAsked bench={bench} act={act} answer={read.answer ?? read.before} />
        {asked ? (
          <Asked of={read}>{(a) => <VerdictOf answer={a} act={act} />}</Asked>
        ) : (
          <VerdictOf answer={undefined} act={act} />
        )}
      </div>
      <RecordBar bench={bench} read={read} recording={recording} />
      {choosing !== "no" && (
        <Find
          title="Put on which bike?"
          close={() => setChoosing("no")}
          open={(tag) => {
            const then = choosing;
            setChoosing("no");
            act({ kind: "bike", tag });
            if (then === "then-record")
              window.setTimeout(() => document.querySelector<HTMLInputElement>("input[name=reading]")?.focus());
          }}
        />
      )}
    </div>
  );
}

type Read = Answered<BenchAnswer>;

/** How what was read becomes a record: what Enter does, what the button does, what is in the way. */
function useRecording(props: {
  bench: Bench;
  act: (a: Action) => void;
  asked: BenchQuestion | null;
  read: Read;
  choose: () => void;
}) {
  const { bench, act, asked, read } = props;
  const { shop } = useSession();
  const whyNot = useWhyNot("recordMeasurement");
  const navigate = useNavigate();
  const record = useWrite(
    ({ tag, body, key }: { tag: string; body: NewMeasurement; key: string }) =>
      ask(
        api.POST("/bikes/{tag}/measurements", { params: { path: { tag }, header: { "Idempotency-Key": key } }, body }),
      ),
    [{ topic: "bike" }],
    (_, { key }) => act({ kind: "recorded", key, places: shop.wear_places }),
  );
  const d = useDistance();
  const odometer = d.typed(bench.odometer ?? "");
  const odometerWrong = (bench.odometer ?? "").trim() !== "" && odometer === undefined;
  const send = () => {
    if (whyNot || record.isPending || !asked || odometerWrong) return;
    if (!bench.tag) return props.choose();
    const { tag: _, ...readings } = asked;
    const body: NewMeasurement = { ...readings };
    if (bench.note.trim()) body.note = bench.note;
    if (odometer !== undefined) body.odometer_km = odometer;
    const tag = bench.tag;
    const to = bench.back ?? `/bikes/${tag}`;
    record.mutate(
      { tag, body, key: bench.key },
      {
        key: bench.key,
        done: () => navigate(to),
        refused: () => act({ kind: "refused" }),
      },
    );
  };
  // Enter goes on to the next place at once, however slow the server: the next reading never lands behind
  // this one. What is wrong here and known already keeps it; what turns out wrong later is said at its place.
  // Once all are read it records, and that waits until what is wrong would have been said.
  const [finishing, setFinishing] = useState(false);
  const finish = useEffectEvent(() => {
    setFinishing(false);
    const wrong = read.answer?.entries.find((e) => e.fault);
    if (wrong) act({ kind: "place", at: wrong.place });
    else send();
  });
  useEffect(() => {
    if (finishing && !read.asking) finish();
  }, [finishing, read.asking]);
  const enter = () => {
    if (read.answer?.entries.find((e) => e.place === bench.at)?.fault) return;
    const to = nextEmpty(bench);
    if (to !== null) act({ kind: "place", at: to });
    else setFinishing(true);
  };
  return {
    enter,
    send,
    isPending: record.isPending,
    isBusy: record.isPending || finishing,
    error: record.error,
    odometerFault: odometerWrong ? d.wrong : faultAt(record.error, "odometer_km"),
  };
}

/** How the chain lies along the rule, and what else was seen of it. */
function Seen(props: { bench: Bench; act: (a: Action) => void; read: Read; odometer: string | undefined }) {
  const { bench, act, read } = props;
  return (
    <div className="card card-border bg-base-100 flex min-w-0 flex-col gap-3 p-4 max-[1099px]:order-1 min-[1100px]:row-span-2">
      {!(read.answer ?? read.before)?.strip && (
        <Empty title="The chain along the rule will be drawn here.">
          <p>As soon as its gears are known, the limits stand on the rule, and the last pin where you read it.</p>
        </Empty>
      )}
      {!read.error && (
        <Asked of={read} words={null} className="flex min-w-0 flex-col gap-3">
          {(a) => (
            <>
              {a.strip && (
                <>
                  <p className="text-fine font-semibold text-quiet">
                    {a.strip.links} links on the rule{a.wear ? "" : ", nothing read yet"}
                  </p>
                  <CreepStrip strip={a.strip} />
                </>
              )}
              <Numbers answer={a} />
            </>
          )}
        </Asked>
      )}
      <Findings bench={bench} toggle={(code) => act({ kind: "finding", code })} />
      <div className="grid gap-3 sm:grid-cols-[1fr_170px]">
        <Field label="Note">
          {(a) => (
            <Input
              {...a}
              name="note"
              value={bench.note}
              maxLength={1000}
              onChange={(e) => act({ kind: "note", text: e.target.value })}
            />
          )}
        </Field>
        <OdometerField
          label="Odometer"
          value={bench.odometer ?? ""}
          set={(text) => act({ kind: "odometer", text })}
          fault={props.odometer}
        />
      </div>
    </div>
  );
}

/** What it comes to, always in sight, and the button that records it. */
function RecordBar(props: { bench: Bench; read: Read; recording: ReturnType<typeof useRecording> }) {
  const { bench, read, recording } = props;
  const answer = read.answer;
  const wear = (answer ?? read.before)?.wear;
  // Without a connection it is recorded as it was read: what it means is said when there is one.
  const away = !useReach().reached && read.error instanceof Unreachable && bench.entries.some((e) => !isEmpty(e));
  const recordable = answer?.recordable === true || away;
  const unread = nextEmpty(bench);
  const here = bench.entries[bench.at - 1];
  const hereRead = here !== undefined && !isEmpty(here);
  const whyNot = useWhyNot("recordMeasurement"); // whoever may not record may still try what a reading says
  return (
    <div className="card card-border bg-base-100 flex min-w-0 flex-col gap-2 p-3 sticky bottom-0 max-[1099px]:order-last max-[1099px]:col-span-full min-[1100px]:bottom-3 min-[1100px]:col-start-3">
      {recording.error != null && <Failure error={recording.error} />}
      {answer?.wear && answer.entries.some((e) => e.fault) && (
        <p className="text-note font-semibold text-error">
          One place is not understood: mend or empty it, then record.
        </p>
      )}
      <div className="flex flex-wrap items-center gap-2">
        {wear && (
          <p
            aria-busy={read.asking}
            className="flex min-w-0 grow flex-wrap items-baseline gap-x-3 leading-tight max-[520px]:basis-full min-[1100px]:hidden"
          >
            <b>{read.asking ? "Working it out…" : verdictWords[wear.verdict]}</b>
            {!read.asking && <span className="font-mono text-fine text-quiet">{wearLine(wear)}</span>}
          </p>
        )}
        {unread !== null && (
          <Button className="shrink-0 px-3" onClick={recording.enter} disabled={!hereRead}>
            Next place {hereRead && <Key>Enter</Key>}
          </Button>
        )}
        {whyNot ? (
          <p className="min-w-0 grow basis-full text-note text-quiet">{whyNot}</p>
        ) : (
          <Button
            kind="main"
            className="min-w-0 grow whitespace-nowrap px-2"
            disabled={!recordable || recording.isPending}
            onClick={recording.send}
          >
            {recording.isBusy ? "Sending…" : bench.tag ? "Record reading" : "Record on a bike"}
            {recordable && unread === null && <Key>Enter</Key>}
          </Button>
        )}
      </div>
    </div>
  );
}

/** The same wear said three ways: percent, play of a joint, growth of the chain. */
function Numbers({ answer: a }: { answer: BenchAnswer }) {
  const w = a.wear;
  if (!w) return null;
  return (
    <div className="flex flex-wrap items-end justify-between gap-x-6 gap-y-2 border-t border-base-300 pt-3">
      <div>
        <p className="text-fine font-semibold text-quiet">wear</p>
        <p className="font-mono text-reading leading-none font-semibold whitespace-nowrap" data-testid="wear">
          {w.elongation_pct !== undefined ? (
            <>
              {percent(w.elongation_pct)}
              <span className="text-xl"> ± {percent(w.sigma_pct ?? 0)} %</span>
            </>
          ) : (
            <span className="text-2xl">{w.interval && intervalWords(w.interval.low_pct, w.interval.high_pct)}</span>
          )}
        </p>
      </div>
      {w.play_per_joint_mm !== undefined && (
        <div>
          <p className="text-fine font-semibold text-quiet">play per link</p>
          <p className="font-mono text-xl font-semibold">{fine(w.play_per_joint_mm, 3)}</p>
        </div>
      )}
      {a.growth_mm !== undefined && (
        <div>
          <p className="text-fine font-semibold text-quiet">{a.chain_links} links</p>
          <p className="font-mono text-xl font-semibold">
            {a.growth_mm >= 0 ? "+" : ""}
            {amount("length", a.growth_mm)}
          </p>
        </div>
      )}
    </div>
  );
}

/** What was seen on chain and teeth while measuring. */
function Findings({ bench, toggle }: { bench: { findings: string[] }; toggle: (code: string) => void }) {
  const { shop } = useSession();
  return (
    <fieldset className="min-w-0">
      <legend className="fieldset-legend">Seen on chain and teeth</legend>
      <div className="flex flex-wrap gap-1">
        {shop.findings.map((f) => {
          const on = bench.findings.includes(f.code);
          return (
            <PressButton
              key={f.code}
              on={on}
              onClick={() => toggle(f.code)}
              title={f.forces ? "Decides by itself" : "Noted"}
              className={f.forces && !on ? "border-base-content/60 text-note" : "text-note"}
            >
              {findingWords(f.code)}
            </PressButton>
          );
        })}
      </div>
    </fieldset>
  );
}
