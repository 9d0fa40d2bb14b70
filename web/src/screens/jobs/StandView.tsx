import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Job, type StepAction, type StepLubricant, type StepView, type Way } from "../../api/client";
import { keys } from "../../api/keys";
import { bathsOptions, replacementOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Key } from "../../ui/controls";
import { nth, shortDay } from "../../ui/format";
import { useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { useKept } from "../../ui/kept";
import { Choice, Failure } from "../../ui/parts";
import { faultAt, namesFields, useWrite } from "../../ui/sending";
import { offerBack } from "../../ui/undo";
import { inShopUnits } from "../../ui/units";
import { useServerTime } from "../../ui/Waits";
import { clockOf } from "../../ui/waits";
import { cautionWords, coatWords } from "../../words/cleaning";
import { stationWords, waitWords } from "../../words/waits";
import { lubricantLine, materialWords } from "../../words/work";
import { useBenchBike } from "../bench/state";
import { minutes } from "../bikes/cleaning";
import { LinkChoice, type LinkDraft, noLink } from "../bikes/LinkChoice";
import { Beside } from "./Beside";
import { BlockStage } from "./BlockStage";
import { HandBackForm, handsBack } from "./HandBackPart";
import { openingOf } from "./InPlace";
import { FindingName } from "./JobWords";
import { amountWords, stepShown, unseen } from "./jobs";
import { OnShelf } from "./OnShelf";
import { PlanChanged, useKeptPlan } from "./PlanChanged";
import { PhotoInput, usePhoto } from "./photos";
import { type Noted, NotedDialog, type Opened, StageDialog } from "./StageDialog";
import { Steps } from "./Steps";
import { isTapped, Noting, SecondRound, takeSkipBack, useMain, useNoting } from "./stage";

/** A job at the stand: the current step large, all steps at the left, what else matters at the right. */
export function StandView({ job }: { job: Job }) {
  const [pick, setPick] = useState<{ code: string } | null>(null);
  const setPicked = (code: string | null) => setPick(code === null ? null : { code });
  const picked = pick?.code ?? null;
  const { way, setWay, error } = useWay();
  const [kept, keepPlan] = useKeptPlan(job);
  const step = stepShown(job, picked);
  const mayChoose = useSession().person.role !== "apprentice"; // for an apprentice a mechanic chooses
  const [joined, setJoined] = useState<string | null>(null); // a colleague's block
  const code = job.block ?? job.blocks.find((b) => b.code === joined && b.standing !== "finished")?.code;
  const block = way === "blocks" && picked === null ? job.blocks.find((b) => b.code === code) : undefined;
  return (
    <div className="flex flex-col gap-3 p-3 min-[720px]:h-full min-[720px]:flex-row">
      <div className="flex shrink-0 flex-col max-[720px]:order-last min-[720px]:w-[230px] min-[1140px]:w-[280px]">
        <Steps
          job={job}
          shown={step?.code}
          inBlocks={way === "blocks"}
          pick={(code) => setPicked(code === job.current ? null : code)}
        />
      </div>
      <div className="flex min-w-0 grow flex-col gap-3 min-[720px]:overflow-y-auto min-[1140px]:flex-row min-[1140px]:overflow-y-visible">
        {job.change && !kept && job.may.includes("work") ? (
          <PlanChanged job={job} change={job.change} keep={() => keepPlan(true)} />
        ) : block ? (
          <BlockStage
            key={block.code}
            job={job}
            block={block}
            pick={setPicked}
            oneByOne={mayChoose ? () => setWay("one-by-one") : undefined}
          />
        ) : step && (way === "one-by-one" || picked !== null) ? (
          <Stage
            key={`${step.code} ${step.round}`}
            job={job}
            step={step}
            // Whoever tapped a step while this one was on its way wants to see that, also when it is the same.
            settle={() => setPick((now) => (now === pick ? null : now))}
            inBlocks={
              mayChoose
                ? () => {
                    setPicked(null);
                    setWay("blocks");
                  }
                : undefined
            }
          />
        ) : (
          <Held job={job} {...(way === "blocks" ? { join: setJoined } : {})} />
        )}
        <div className="shrink-0 min-[1140px]:w-[270px] min-[1140px]:overflow-y-auto">
          {error != null && <Failure error={error} />}
          {job.change && kept && (
            <Button className="mb-2 w-full" onClick={() => keepPlan(false)}>
              The chain goes: see the new plan
            </Button>
          )}
          <Beside job={job} />
        </div>
      </div>
    </div>
  );
}

/** How whoever is signed in works: shown at once, and kept with them. */
function useWay() {
  const me = useSession().person;
  const client = useQueryClient();
  const [chosen, choose] = useState<Way>();
  const send = useWrite(
    (way: Way, key) =>
      ask(
        api.PUT("/people/{person}/way", {
          params: { path: { person: me.id }, header: { "Idempotency-Key": key } },
          body: { way },
        }),
      ),
    [],
    () => void client.invalidateQueries({ queryKey: keys.session }),
  );
  return {
    way: chosen ?? me.way ?? "one-by-one",
    setWay: (way: Way) => {
      choose(way);
      send.mutate(way);
    },
    error: send.error,
  };
}

/** Nothing can be begun: what it waits for, or that all is done. */
function Held({ job, join }: { job: Job; join?: (block: string) => void }) {
  const now = useServerTime();
  const theirs = join ? job.blocks.filter((b) => b.standing === "underway") : [];
  const held = job.step_list.filter((s) => s.standing === "held");
  const others = job.step_list.filter((s) => s.standing === "underway");
  const withheld = job.step_list.filter((s) => s.standing === "withheld");
  const [noting, setNoting] = useState<Noted | null>(null);
  const photo = usePhoto(job.id);
  useNoting(setNoting, photo.ask);
  return (
    <section
      className="card card-border bg-base-100 flex min-w-0 grow flex-col p-5"
      aria-label="Current step"
      aria-live="polite"
    >
      {job.step_list.every((s) => s.standing === "finished") ? (
        <>
          <Heading className="text-figure leading-tight font-bold">All steps are done</Heading>
          <p className="mt-2 text-lg">
            {job.holds.length === 0
              ? "The bike can be handed back."
              : "Something still holds the hand-back: see there."}
          </p>
          {handsBack(job) && (
            <div className="mt-4 max-w-xl">
              <HandBackForm job={job} />
            </div>
          )}
        </>
      ) : (
        <>
          <Heading className="text-figure leading-tight font-bold">Nothing to do here for now</Heading>
          <ul className="mt-3 flex flex-col gap-1 text-lg">
            {held.map((s) => (
              <li key={s.code}>
                {s.title} <span className="text-quiet">in</span>{" "}
                <span className="font-mono font-semibold">{s.until && clockOf(Date.parse(s.until) - now)}</span>
              </li>
            ))}
            {others.map((s) => (
              <li key={s.code}>
                {s.by} is at “{s.title}”
              </li>
            ))}
            {withheld.map((s) => (
              <li key={s.code}>
                {s.title}{" "}
                <span className="text-quiet">
                  is withheld until{" "}
                  {(s.withheld ?? []).map((code, i) => (
                    <span key={code}>
                      {i > 0 && " and "}“<FindingName code={code} />”
                    </span>
                  ))}{" "}
                  is settled
                </span>
              </li>
            ))}
          </ul>
          {theirs.map((b) => (
            <Button key={b.code} className="mt-3 self-start" onClick={() => join?.(b.code)}>
              Join in: {b.title}
            </Button>
          ))}
          <p className="mt-3">
            <ButtonLink to="/today" kind="main">
              See what else there is
            </ButtonLink>
          </p>
        </>
      )}
      {job.may.includes("work") && (
        <div className="mt-auto flex flex-wrap gap-2 pt-5">
          <Noting open={setNoting} photo={photo.ask} />
        </div>
      )}
      <PhotoInput photo={photo} />
      {noting && <NotedDialog dialog={noting} job={job} close={() => setNoting(null)} />}
    </section>
  );
}

function Stage(props: { job: Job; step: StepView; settle: () => void; inBlocks: (() => void) | undefined }) {
  const { job, step, settle } = props;
  const client = useQueryClient();
  const [tapped, setTapped] = useKept<string[]>(`pony.tapped.${job.id}.${step.code}`, [], isTapped);
  const [cause, setCause] = useState<string>();
  const [bath, setBath] = useState<string>();
  const [twice, setTwice] = useState(false);
  const [link, setLink] = useState<LinkDraft>(noLink);
  const [dialog, setDialog] = useState<Opened | null>(null);
  const photo = usePhoto(job.id);
  const send = useWrite(
    async (body: StepAction, key) => {
      const params = { path: { job: job.id, step: step.code }, header: { "Idempotency-Key": key } };
      const after = await ask(api.POST("/jobs/{job}/steps/{step}", { params, body }));
      client.setQueryData(keys.job(job.id), after);
      if (body.action !== "begin") settle();
      if (body.action === "skip") {
        const back = () => takeSkipBack(client, job.id, step.code);
        offerBack(`Skipped: ${step.title}`, back, `${job.id}/${step.code}`);
      }
      return after;
    },
    [{ topic: "job", tag: job.tag }],
  );
  const left = unseen(job, step, tapped);
  const mine = step.mine ?? false;
  const others = step.state === "begun" && !mine;
  const works = job.may.includes("work");
  const can = works && (step.standing === "ready" || step.standing === "underway");
  const closes = step.opens === "joining-link";
  const go = (body: StepAction) => {
    if (!send.isPending) send.mutate(body);
  };
  const closing = closes ? openingOf(link) : undefined;
  const done = () => {
    if (!can || left.length > 0) return;
    if (!mine && !others) return go({ action: "begin" });
    go({
      action: "done",
      go_on: true,
      ...(tapped.length > 0 ? { seen: tapped } : {}),
      ...(cause ? { cause } : {}),
      ...(bath ? { bath_id: bath } : {}),
      ...(twice ? { second_round: true } : {}),
      ...(closing ? { opening: closing } : {}),
    });
  };
  const fail = () =>
    step.felt ? setDialog("felt") : go({ action: "fail", ...(tapped.length > 0 ? { seen: tapped } : {}) });
  useMain(dialog === null, done);
  useNoting(setDialog, photo.ask);
  const words = !mine && !others ? "Start" : step.done;
  return (
    <section
      className="card card-border bg-base-100 flex min-w-0 grow flex-col gap-4 px-4 pt-4 sm:px-6 sm:pt-6 min-[1140px]:overflow-y-auto"
      aria-label="Current step"
    >
      <div className="flex flex-wrap items-center justify-between gap-x-4">
        <p className="text-note text-quiet">
          Step {job.step_list.findIndex((s) => s.code === step.code) + 1} of {job.step_list.length} ·{" "}
          {stationWords(step.station)} · about {step.minutes} min
          {step.round > 1 && <b className="text-due-ink"> · {nth(step.round)} time</b>}
        </p>
        {props.inBlocks && (
          <Button kind="quiet" className="text-note" onClick={props.inBlocks}>
            In blocks
          </Button>
        )}
      </div>
      <div className="-mt-3" aria-live="polite">
        <Heading className="text-figure leading-tight font-bold sm:text-reading" data-testid="step-title">
          {step.title}
        </Heading>
      </div>
      <p className="max-w-[52ch] text-lg sm:text-xl">{inShopUnits(step.do)}</p>
      <p className="-mt-2 max-w-[60ch] text-quiet">{inShopUnits(step.why)}</p>
      <Warnings step={step} left={left} got={(c) => setTapped([...tapped, c])} />
      <Needs step={step} job={job} />
      <Opens job={job} step={step} />
      {step.causes && (
        <Choice
          label="Which is it"
          value={cause}
          options={step.causes.map((c) => ({ value: c.code, words: `${c.says}: ${c.leads.toLowerCase()}` }))}
          choose={setCause}
        />
      )}
      {can && <SecondRound step={step} on={twice} set={setTwice} />}
      {step.bath && <BathChoice kind={step.bath} value={bath} choose={setBath} />}
      {closes && <Closing tag={job.tag} draft={link} set={setLink} error={send.error} />}
      <Standing job={job} step={step} />
      {!works && <p className="text-quiet">Work at the stand is a mechanic's or an apprentice's.</p>}
      {send.isError && (!namesFields(send.error) || faultAt(send.error, "opening.joining_link") === undefined) && (
        <Failure error={send.error} />
      )}
      {step.suggest && (
        <p className="border-l-4 border-warning pl-3">
          Black {step.fails} times: what is left sits inside the rollers.{" "}
          <Link to={`/jobs/${job.id}/plan`} className="underline underline-offset-4">
            Plan it as a soak
          </Link>
        </p>
      )}
      <div className="sticky bottom-0 -mx-1 mt-auto flex flex-wrap items-stretch gap-2 bg-base-100 px-1 py-3">
        <Noting open={setDialog} photo={photo.ask} />
        {step.fail && can && (mine || others) && (
          <Button disabled={send.isPending || left.length > 0} onClick={fail}>
            {step.fail}
          </Button>
        )}
        {can && (
          <Button
            data-testid="main-action"
            data-goes-on
            kind="main"
            className="min-h-16 grow text-xl"
            disabled={send.isPending || left.length > 0}
            onClick={done}
          >
            {left.length > 0 ? "Read the warnings first" : words} <Key>Enter</Key>
          </Button>
        )}
      </div>
      {works && step.standing !== "finished" && (
        <Aside step={step} pause={() => go({ action: "pause" })} open={setDialog} />
      )}
      <PhotoInput photo={photo} />
      {dialog && (
        <StageDialog dialog={dialog} job={job} step={step} error={send.error} go={go} close={() => setDialog(null)} />
      )}
    </section>
  );
}

/** What must be known before the step is begun; those that are not clicked away until they are read. */
function Warnings({ step, ...props }: { step: StepView; left: string[]; got: (caution: string) => void }) {
  if (step.cautions.length === 0) return null;
  return (
    <ul className="grid gap-2 xl:grid-cols-2" aria-label="Warnings">
      {step.cautions.map((c) => (
        <li
          key={c}
          data-testid="caution"
          className="flex items-center justify-between gap-3 border-l-4 border-rust bg-rust/8 px-3 py-2"
        >
          <span className="min-w-0">{cautionWords(c)}</span>
          {props.left.includes(c) && (
            <Button className="shrink-0" onClick={() => props.got(c)} aria-label={`Got it: ${cautionWords(c)}`}>
              Got it
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}

/** Where what the step finds is written down. */
function Opens({ job, step }: { job: Job; step: StepView }) {
  const putOnBench = useBenchBike();
  return (
    <>
      {step.opens === "readings" && (
        <ButtonLink to="/measure" className="self-start" onClick={() => putOnBench(job.tag, `/jobs/${job.id}`)}>
          Measure it
        </ButtonLink>
      )}
      {step.opens === "new-chain" && (
        <ButtonLink to={`/bikes/${job.tag}/replace`} className="self-start">
          Note it under Replace
        </ButtonLink>
      )}
      {step.opens === "waste" && (
        <ButtonLink to={`/stock/waste?job=${job.id}`} className="self-start">
          Note it in the waste log
        </ButtonLink>
      )}
    </>
  );
}

/** What it waits for, what it needs before it, who has done it. */
function Standing({ job, step }: { job: Job; step: StepView }) {
  return (
    <>
      {step.wait && (
        <p className="text-note text-quiet">
          Then it waits by itself: {waitWords(step.wait.code)}
          {step.wait.least_min > 0 && `, ${step.wait.least_min} min`}
          {step.wait.most_min ? `, ${step.wait.most_min} min at most` : ""}.
        </p>
      )}
      {step.standing === "withheld" && (
        <p className="border-l-4 border-error pl-3 font-semibold" data-testid="withheld">
          Not until it is settled:{" "}
          {(step.withheld ?? []).map((code, i) => (
            <span key={code}>
              {i > 0 && ", "}
              <FindingName code={code} />
            </span>
          ))}
          . This step loads the bike.
        </p>
      )}
      {step.standing === "blocked" && (
        <p className="font-semibold text-due-ink">
          Not yet: first{" "}
          {step.before
            .map((code) => job.step_list.find((s) => s.code === code))
            .filter((s) => s && s.standing !== "finished")
            .map((s) => s?.title)
            .join(", ")}
          .
        </p>
      )}
      {step.standing === "finished" && (
        <p className="text-quiet">
          {step.state === "skipped" ? `Left out by ${step.by}: ${step.reason}` : `Done by ${step.by}`}
          {step.done_at && `, ${shortDay(step.done_at)}`}
        </p>
      )}
    </>
  );
}

/** What is seldom done with a step: it rests, somebody else takes it, it is left out. */
function Aside(props: { step: StepView; pause: () => void; open: (d: Opened) => void }) {
  const { step } = props;
  return (
    <div className="-mt-4 flex flex-wrap gap-x-2 text-note">
      {step.state === "begun" && (
        <>
          <Button kind="quiet" onClick={props.pause}>
            Pause
          </Button>
          <Button kind="quiet" onClick={() => props.open("hand-over")}>
            Hand over
          </Button>
        </>
      )}
      {!step.gate && (
        <Button kind="quiet" onClick={() => props.open("skip")}>
          Skip step
        </Button>
      )}
    </div>
  );
}

function Needs({ step, job }: { step: StepView; job: Job }) {
  if (step.amounts.length === 0 && step.tools.length === 0) return null;
  return (
    <div className="flex flex-wrap gap-x-8 gap-y-2">
      {step.lubricant && <Lubricant of={step.lubricant} />}
      {step.amounts.length > 0 && (
        <dl className="min-w-52" aria-label="For this bike">
          {step.amounts.map((a) => (
            <div key={a.material} className="flex justify-between gap-4 border-b border-base-300 py-1">
              <dt>{materialWords(a.material)}</dt>
              <dd className="font-mono font-semibold">{amountWords(a)}</dd>
            </div>
          ))}
        </dl>
      )}
      {step.tools.length > 0 && (
        <p className="max-w-80 self-center text-note text-quiet">Tools: {step.tools.join(", ")}</p>
      )}
      <div className="basis-full">
        <OnShelf job={job} of={step.amounts.map((a) => a.material)} />
      </div>
    </div>
  );
}

/** What goes on, which bottle, what it replaces, and from when the bike may be ridden. */
function Lubricant({ of: l }: { of: StepLubricant }) {
  return (
    <p className="basis-full" data-testid="lubricant">
      <b className="first-letter:uppercase">{lubricantLine(l)}</b>
      <span className="block text-note text-quiet">
        {l.replaces && `In place of ${coatWords[l.replaces].toLowerCase()}. `}
        Ridden {minutes(l.ride_min)} after at the earliest
        {l.better_min > l.ride_min && `, better ${minutes(l.better_min)}`}.
      </span>
    </p>
  );
}

/** Which bath it goes into; spent ones say so. */
function BathChoice(props: { kind: string; value: string | undefined; choose: (id: string) => void }) {
  const baths = (useQuery(bathsOptions).data ?? []).filter((b) => b.kind === props.kind);
  if (baths.length === 0) return <p className="text-note text-quiet">No such bath is kept in Stock: not counted.</p>;
  return (
    <Choice
      label="Into which"
      value={props.value ?? baths.find((b) => b.left > 0)?.id}
      options={baths.map((b) => ({
        value: b.id,
        words: `${b.facts.name}, ${b.left > 0 ? `${b.left} of ${b.points} left` : "spent"}${b.facts.clean_only ? ", new chains only" : ""}`,
      }))}
      choose={props.choose}
    />
  );
}

function Closing(props: { tag: string; draft: LinkDraft; set: (d: LinkDraft) => void; error: unknown }) {
  const plan = useQuery(replacementOptions(props.tag)).data;
  if (!plan) return null;
  return (
    <LinkChoice
      draft={props.draft}
      set={props.set}
      old={plan.old_link}
      links={plan.links}
      box={false}
      pin
      error={props.error}
    />
  );
}
