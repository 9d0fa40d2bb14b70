import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, ask, type Bike, type CleaningPlan, type Intake, type Job } from "../../api/client";
import { bikeJobsOptions, bikeOptions, cleaningPlanQuestion } from "../../api/queries";
import { useJob } from "../../outbox/job";
import { Asked, useAnswer } from "../../ui/answer";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Key } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { useCommands } from "../../ui/frame";
import { forget, useKept } from "../../ui/kept";
import { Failure } from "../../ui/parts";
import { faultAt, useWrite } from "../../ui/sending";
import { readWhen } from "../../ui/when";
import { cautionWords, partsWords, reachWords, routeWords, washWords, whyWords } from "../../words/cleaning";
import { useBenchBike } from "../bench/state";
import { type Coming, conditionOf, fromIntake, isSeen, minutes, toIntake } from "./cleaning";
import { IntakePhotos, useIntakePhotos } from "./IntakePhotos";
import { WhatWasSeen } from "./WhatWasSeen";

/** A bike that came in: what was seen and said on the left, how it would be cleaned on the right, and the action that takes it in. */
export function CleanPage() {
  const { tag = "" } = useParams();
  const bike = useQuery(bikeOptions(tag));
  return (
    <Fetched query={bike} what={`the bike of tag ${tag}`}>
      {(b) => <Look key={b.tag} bike={b} />}
    </Fetched>
  );
}

/** What was seen and said of a bike that was taken in, looked at again. */
export function LookAgain() {
  const { id = "" } = useParams();
  const job = useJob(id);
  return (
    <Fetched query={job} what="the job">
      {(j) => <OfJob key={j.id} job={j} />}
    </Fetched>
  );
}

function OfJob({ job }: { job: Job }) {
  const bike = useQuery(bikeOptions(job.tag));
  return (
    <Fetched query={bike} what="the bike">
      {(b) => <Look bike={b} job={job} />}
    </Fetched>
  );
}

function Look({ bike, job }: { bike: Bike; job?: Job }) {
  const slot = job ? `pony.draft.intake.${job.id}` : `pony.draft.clean.${bike.tag}`;
  const [seen, setSeen] = useKept<Coming>(slot, job ? fromIntake(job.intake) : {}, isSeen);
  const set = (part: Coming) => setSeen({ ...seen, ...part });
  const { promised } = seen;
  const plan = useAnswer(cleaningPlanQuestion(bike.tag, conditionOf(seen)));
  const navigate = useNavigate();
  const pictures = useIntakePhotos();
  const jobs = useQuery(bikeJobsOptions(bike.tag)).data ?? [];
  const found = job ? undefined : jobs.find((j) => j.state === "arrived" || j.state === "planned");
  const send = useWrite(
    async (body: Intake, key) => {
      const after = job
        ? await ask(
            api.PUT("/jobs/{job}/intake", {
              params: { path: { job: job.id } },
              body: { version: job.version, intake: body },
            }),
          )
        : await ask(
            api.POST("/bikes/{tag}/jobs", {
              params: { path: { tag: bike.tag }, header: { "Idempotency-Key": key } },
              body,
            }),
          );
      forget(slot);
      if (!job && !(await pictures.send(after.id))) return after.id;
      navigate(after.state === "planned" ? `/jobs/${after.id}/plan` : `/jobs/${after.id}`);
      return after.id;
    },
    [{ topic: "job", tag: bike.tag }],
  );
  const intake = toIntake(seen);
  const [unread, setUnread] = useState<string>();
  const [ungraded, setUngraded] = useState(false);
  const takeIn = () => {
    const when = readWhen(promised ?? "", "moment");
    setUnread(when.is === "none" ? when.why : when.is === "twice" ? "Say which of the two." : undefined);
    if (when.is === "none" || when.is === "twice")
      return document.querySelector<HTMLInputElement>("input[name=promised]")?.focus();
    setUngraded(!intake);
    if (!intake) return document.querySelector<HTMLElement>("fieldset[data-ungraded] button")?.focus();
    if (!send.isPending) send.mutate(intake);
  };
  // The bike is here because it was just taken in from this page, whatever the list of its jobs says by now: news of it
  // may be here before the answer is.
  const ours = !job && (pictures.sending ?? pictures.left?.job ?? (send.isSuccess ? send.data : undefined));
  const open = send.isPending ? undefined : found;
  useCommands(open || ours ? {} : { t: { words: job ? "Save" : "Book the bike in", run: takeIn } });
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-3 p-3 min-[700px]:grid-cols-[300px_minmax(0,1fr)] min-[700px]:grid-rows-[auto_1fr] min-[1100px]:grid-cols-[340px_minmax(0,1fr)]">
      <WhatWasSeen
        bike={bike}
        job={job}
        seen={seen}
        set={set}
        clear={() => setSeen({})}
        plan={plan}
        ungraded={ungraded}
        promise={{
          fault: unread ?? faultAt(send.error, "promised_at"),
          set: (part) => {
            setUnread(undefined);
            set(part);
          },
        }}
        photos={
          job ? null : (
            <IntakePhotos
              photos={pictures}
              again={async () => {
                if (pictures.left && (await pictures.send(pictures.left.job))) navigate(`/jobs/${pictures.left.job}`);
              }}
            />
          )
        }
      />
      <div className="flex min-w-0 flex-col gap-3 max-[700px]:sticky max-[700px]:bottom-0 max-[700px]:z-10 max-[700px]:order-last min-[700px]:sticky min-[700px]:top-0 min-[700px]:z-10">
        {send.isError && <Failure error={send.error} />}
        {ours ? (
          <section
            className="card card-border bg-base-100 flex flex-wrap items-center justify-between gap-3 p-4"
            role="status"
          >
            <p>
              The bike is booked in.
              {pictures.sending &&
                (pictures.taken.length === 1
                  ? " Its photo is being kept…"
                  : ` ${pictures.taken.length} photos are being kept…`)}
            </p>
            <ButtonLink to={`/jobs/${ours}`} kind="main">
              Open its job
            </ButtonLink>
          </section>
        ) : open ? (
          <section className="card card-border bg-base-100 flex flex-wrap items-center justify-between gap-3 p-4">
            <p>This bike is in the workshop already.</p>
            <ButtonLink to={`/jobs/${open.id}`} kind="main">
              Open its job
            </ButtonLink>
          </section>
        ) : bike.archived ? null : (
          <section className="card card-border bg-base-100 flex flex-wrap items-center justify-between gap-3 p-4 max-[700px]:p-2">
            <p className="min-w-0 grow basis-60 text-quiet max-[700px]:hidden">
              {!intake
                ? "Grade the drivetrain and the frame first."
                : job
                  ? "Options are recalculated from this; what is done stays done."
                  : "Booked in, its routes stand side by side with minutes, fluids and price."}
            </p>
            <Button kind="main" className="max-[700px]:w-full" disabled={send.isPending} onClick={takeIn}>
              {job ? "Save" : "Book the bike in"} <Key>T</Key>
            </Button>
          </section>
        )}
      </div>
      {plan.error ? (
        seen.express ? null : ( // said where its price would stand
          <Failure error={plan.error} again={plan.again} />
        )
      ) : conditionOf(seen) ? (
        <Asked of={plan} words="Seeing which route fits…">
          {(p) => <Plan plan={p} tag={bike.tag} />}
        </Asked>
      ) : (
        <section className="card card-border bg-base-100 self-start p-4 max-[700px]:hidden" aria-label="The route">
          <h2 className="text-lg">First, look.</h2>
          <p className="mt-1 max-w-prose text-quiet">
            Run a finger along the chain, flex it next to your ear, look between the sprockets. Choose what fits for the
            drivetrain and the frame; the options then stand here side by side.
          </p>
        </section>
      )}
    </div>
  );
}

/** What fits until it is wanted, and what becomes of it when the reading is settled. */
export function InTime({ choice: c }: { choice: CleaningPlan["choice"] }) {
  const late = c.routes.find((r) => r.route === c.route)?.against.includes("not-in-time");
  if (!late && !c.if_chain_goes) return null;
  return (
    <div className="mt-3 flex max-w-prose flex-col gap-1 border-l-4 border-warning pl-3">
      {late && (
        <p data-testid="best-fit">
          Not ready by then.{" "}
          {c.best_fit ? (
            <>
              What fits: <b>{routeWords[c.best_fit].name}</b>.
            </>
          ) : (
            "Nothing fits: another time has to be found."
          )}
        </p>
      )}
      {c.if_chain_goes && (
        <p>
          Should the chain go, it is <b>{routeWords[c.if_chain_goes].name}</b>: {partsWords[c.if_chain_goes]}.
        </p>
      )}
    </div>
  );
}

function Plan({ plan, tag }: { plan: CleaningPlan; tag: string }) {
  const c = plan.choice;
  const navigate = useNavigate();
  const putOnBench = useBenchBike();
  const measure = () => {
    putOnBench(tag);
    navigate("/measure");
  };
  return (
    <div className="flex min-w-0 flex-col gap-3">
      <section className="card card-border bg-base-100 p-4" aria-label="The route" aria-live="polite">
        <h2 className="text-figure leading-tight font-bold" data-testid="route">
          {routeWords[c.route].name}
        </h2>
        <p className="text-lg">{routeWords[c.route].what}</p>
        {c.parts_route !== c.route && (
          <p className="mt-1">
            Cassette, chainrings and jockey wheels: <b>{routeWords[c.parts_route].name}</b>,{" "}
            {routeWords[c.parts_route].what}.
          </p>
        )}
        <ul className="mt-3 flex max-w-prose flex-col gap-1" aria-label="Why">
          {c.reasons.map((r) => (
            <li key={r.code}>{whyWords(r.code)}</li>
          ))}
          {plan.unknown.map((u) => (
            <li key={u} className="text-quiet">
              The card does not say what {u === "motor" ? "motor it has" : "brakes it has"}: the worst is taken.
            </li>
          ))}
        </ul>
        <InTime choice={c} />
        {plan.verdict === undefined && (
          <p className="mt-3 border-l-4 border-warning pl-3">
            The chain was not measured yet: work on a chain that is thrown away is wasted.{" "}
            <Button kind="quiet" className="px-0" onClick={measure}>
              Measure it first
            </Button>
          </p>
        )}
      </section>
      <section className="card card-border bg-base-100 border-l-4 border-l-warning p-4" aria-label="Warnings">
        <h2 className="text-fine font-semibold text-quiet mb-1">Before you start</h2>
        <ul className="flex flex-col gap-1">
          {c.cautions.map((code) => (
            <li key={code} data-testid="caution">
              {cautionWords(code)}
            </li>
          ))}
        </ul>
        <p className="mt-2 text-fine text-quiet">
          Part markings, product labels and makers' instructions come before anything here.
        </p>
      </section>
      <section className="card card-border bg-base-100" aria-label="Every route">
        <h2 className="text-fine font-semibold text-quiet px-4 pt-3 pb-1">
          The route's own work; wash and checks come on top, and are counted in when it can be ridden
        </h2>
        <ul>
          {c.routes.map((o) => (
            <li
              key={o.route}
              data-testid={`route-${o.route}`}
              className={`border-t border-base-300 px-4 py-2 first:border-t-0 ${o.route === c.route ? "bg-accent/15" : ""}`}
            >
              <p className="flex flex-wrap items-baseline justify-between gap-x-4">
                <b className={o.refused ? "text-quiet line-through" : ""}>{routeWords[o.route].name}</b>
                <span className="font-mono text-note">
                  {o.attended_min > 0 &&
                    `${minutes(o.attended_min)} by hand, ${minutes(o.wait_least_min, o.wait_most_min)} waiting`}
                  {o.ready_min > 0 && `; ridden in ${minutes(o.ready_min)}`}
                </span>
              </p>
              <p className="text-note text-quiet">{reachWords(o.misses, o.against)}</p>
              {o.against.length > 0 && (
                <p className={`text-note ${o.refused ? "font-semibold text-error" : "text-due-ink"}`}>
                  <span className="inline-block first-letter:uppercase">{o.against.map(whyWords).join("; ")}</span>
                </p>
              )}
            </li>
          ))}
        </ul>
      </section>
      <section className="card card-border bg-base-100 p-4" aria-label="The wash">
        <h2 className="text-lg">
          Wash: <span data-testid="wash">{washWords[c.wash]}</span>
        </h2>
        <ul className="mt-1">
          {c.washes.map((w) => (
            <li key={w.wash} className="flex flex-wrap items-baseline gap-x-3">
              <span className={w.wash === c.wash ? "font-semibold" : ""}>{washWords[w.wash]}</span>
              <span className="font-mono text-note text-quiet">{minutes(w.attended_min)}</span>
              {w.against.length > 0 && (
                <span className="text-note text-due-ink">{w.against.map(whyWords).join("; ")}</span>
              )}
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}
