import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { Floor, FloorTry, JobSummary } from "../../api/client";
import { floorOptions, jobsOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button } from "../../ui/controls";
import { dayOf, daysBetween } from "../../ui/days";
import { Fetched } from "../../ui/Fetched";
import { clock, dayWords, shortName, weekdayAndTime } from "../../ui/format";
import { Heading } from "../../ui/Heading";
import { Empty, Failure } from "../../ui/parts";
import { SettingUp } from "../../ui/SettingUp";
import { Tag } from "../../ui/Tag";
import { useServerTime } from "../../ui/Waits";
import { clockOf } from "../../ui/waits";
import { missWords } from "../../words/day";
import { routeName } from "../../words/work";
import { hours } from "../jobs/jobs";
import { PromiseDialog, StintDialog, useFloorChange } from "./Changing";
import { DayRail } from "./DayRail";
import { becauseWords, helpWords, lateWords } from "./floor";
import { Hands } from "./Hands";
import { OwnDay } from "./OwnDay";
import { daysOf, type Go, railOf, shortTag } from "./rail";

/** The day is run from here: who does what now, the day rail, and what is in the workshop. */
export function FloorPlace() {
  const jobs = useQuery(jobsOptions);
  const now = useServerTime();
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Today</Heading>
      <SettingUp />
      <Fetched query={jobs} what="the jobs">
        {(all) =>
          all.length === 0 ? (
            <section className="card card-border bg-base-100">
              <Empty title="No bike is in the workshop.">
                <p>Open a bike and book it in: what you see, what the customer says, and by when.</p>
                <ButtonLink to="/bikes" kind="main">
                  Find the bike
                </ButtonLink>
              </Empty>
            </section>
          ) : (
            <>
              <Wall now={now} />
              <Part title="Ready to hand back" jobs={all.filter((j) => j.ready)} now={now} />
              <Part title="In progress" jobs={all.filter((j) => j.state === "planned" && !j.ready)} now={now} />
              <Part title="Booked in, not planned" jobs={all.filter((j) => j.state === "arrived")} now={now} />
            </>
          )
        }
      </Fetched>
    </div>
  );
}

function Wall({ now }: { now: number }) {
  const floor = useQuery(floorOptions);
  return (
    <Fetched query={floor} what="the day">
      {(f) => <Day floor={f} now={now} />}
    </Fetched>
  );
}

const dayNames = ["Today", "Tomorrow"];

function Day({ floor: f, now }: { floor: Floor; now: number }) {
  const days = daysOf(f);
  // After closing time the next day is the one to look at.
  const first =
    days.find((d) => f.stints.some((s) => s.state !== "done" && dayOf(Date.parse(s.end)) === d)) ?? days[0] ?? "";
  const [picked, setPicked] = useState<string | null>(null);
  const day = picked !== null && days.includes(picked) ? picked : first;
  const [shown, setShown] = useState<Go | string | null>(null);
  const { promise, keep } = useFloorChange(() => {});
  const [whole, setWhole] = useState(false);
  const [everybody, setEverybody] = useState(false);
  const rail = railOf(f, day, now, whole);
  const today = days[0] ?? "";
  const drop = (t: FloorTry) => {
    const job = f.jobs.find((j) => j.job === t.job);
    if (t.step) keep.mutate({ job: t.job, step: t.step, also: t.also, person: t.person, at: t.at });
    else if (job) promise.mutate({ job, at: t.promised_at, waiting: job.waiting ?? false });
  };
  const asked = typeof shown === "string" ? f.jobs.find((j) => j.job === shown) : undefined;
  return (
    <div className="grid items-start gap-3 lg:grid-cols-[264px_minmax(0,1fr)]">
      <div className="flex min-w-0 flex-col gap-3">
        <Hands floor={f} now={now} />
        <Told floor={f} pick={setShown} />
      </div>
      <div className="flex min-w-0 flex-col gap-3">
        <nav aria-label="Days" className="tabs tabs-border items-center gap-x-5 gap-y-1">
          {days.map((d) => (
            <Button
              key={d}
              aria-pressed={d === day}
              onClick={() => setPicked(d)}
              kind="cell"
              className={`tab text-lg font-semibold ${d === day ? "tab-active" : ""}`}
            >
              {dayNames[daysBetween(today, d)] ?? dayWords(d)}
            </Button>
          ))}
          {day === today && (
            <Button kind="quiet" className="ml-auto" aria-pressed={whole} onClick={() => setWhole(!whole)}>
              {whole ? "From now on" : "The whole day"}
            </Button>
          )}
          <ButtonLink
            to={day === today ? "/today/sheet" : `/today/sheet?day=${day}`}
            kind="quiet"
            className={day === today ? "" : "ml-auto"}
          >
            {day === today ? "Tomorrow's sheet" : "Sheet of this day"}
          </ButtonLink>
          <span className="text-fine text-quiet">
            planned at <span className="font-mono">{clock(f.made_at)}</span>
            {f.seeking && ", a newer plan is being made"}
          </span>
        </nav>
        {promise.isError && <Failure error={promise.error} again={() => promise.reset()} />}
        {keep.isError && <Failure error={keep.error} again={() => keep.reset()} />}
        <div className="sm:hidden">
          <OwnDay floor={f} day={day} open={setShown} />
        </div>
        <div className={everybody ? "" : "max-sm:hidden"}>
          <DayRail rail={rail} open={setShown} promise={setShown} drop={drop} />
        </div>
        <Button
          kind="quiet"
          className="-ml-4 self-start sm:hidden"
          aria-pressed={everybody}
          onClick={() => setEverybody(!everybody)}
        >
          {everybody ? "Only one person's day" : "Everybody's day"}
        </Button>
      </div>
      {shown !== null && typeof shown !== "string" && <StintDialog floor={f} go={shown} close={() => setShown(null)} />}
      {asked && <PromiseDialog job={asked} close={() => setShown(null)} />}
    </div>
  );
}

/** What the wall cannot keep and what would help; what moved on it and why. */
function Told({ floor: f, pick }: { floor: Floor; pick: (job: string) => void }) {
  const late = lateWords(f);
  const help = helpWords(f);
  if (late.length + f.not_placed.length + f.moved.length === 0) return null;
  return (
    <section
      className="card card-border bg-base-100 flex flex-col gap-2 px-4 py-3"
      aria-label="What the plan says"
      data-testid="told"
    >
      {late.map((l) => (
        <p key={l.job} className="font-semibold text-error">
          <Button kind="quiet" className="px-1 font-mono" onClick={() => pick(l.job)}>
            {shortTag(l.tag)}
          </Button>
          <span className="hidden font-mono print:inline">{shortTag(l.tag)}</span> {l.says}.
        </p>
      ))}
      {late.length > 0 && help && <p className="font-semibold">{help}</p>}
      {f.not_placed
        .filter((n) => n.why !== "not-after")
        .map((n) => (
          <p key={n.tag + n.title} className="text-error">
            <span className="font-mono">{shortTag(n.tag)}</span> “{n.title}” {missWords[n.why]}.
          </p>
        ))}
      {f.moved.length > 0 && (
        <details>
          <summary className="min-h-(--target) content-center text-note">
            {f.moved.length === 1 ? "One piece of work moved" : `${f.moved.length} pieces of work moved`}:{" "}
            {f.because.map(becauseWords).join("; ")}.
          </summary>
          <ul className="mt-1 flex flex-col gap-1 text-note">
            {f.moved.map((m) => (
              <li key={m.tag + m.title + m.to}>
                <span className="font-mono">{shortTag(m.tag)}</span> {m.title}{" "}
                <span className="font-mono text-quiet">{clock(m.from)}</span> →{" "}
                <span className="font-mono">{clock(m.to)}</span>
                {m.by && `, ${m.by} for ${m.by_before}`}
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}

function Part({ title, jobs, now }: { title: string; jobs: JobSummary[]; now: number }) {
  if (jobs.length === 0) return null;
  return (
    <section aria-label={title}>
      <h2 className="text-fine font-semibold text-quiet mb-1">
        {title} <span className="font-mono">{jobs.length}</span>
      </h2>
      <ul className="card card-border bg-base-100">
        {jobs.map((j) => (
          <Row key={j.id} job={j} now={now} />
        ))}
      </ul>
    </section>
  );
}

function Row({ job: j, now }: { job: JobSummary; now: number }) {
  const late = j.promised_at !== undefined && Date.parse(j.promised_at) < now;
  return (
    <li data-testid="job">
      <Link
        to={`/jobs/${j.id}`}
        className="min-h-(--target) border-t border-base-300 hover:bg-base-200 grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-4 gap-y-1 px-4 py-2 md:grid-cols-[minmax(0,1.1fr)_minmax(0,1.6fr)_140px]"
      >
        <span className="min-w-0">
          <Tag tag={j.tag} />
          <span className="mt-1 block truncate text-note text-quiet">
            {j.customer.name}, {j.bike}
          </span>
        </span>
        <span className="min-w-0 max-md:order-last max-md:col-span-2">
          <Doing job={j} now={now} />
          {j.steps > 0 && (
            <span className="mt-1 flex items-center gap-2 text-fine text-quiet">
              <span className="block h-1.5 grow overflow-hidden rounded-full bg-base-300">
                <span className="block h-full bg-primary" style={{ width: `${(100 * j.done) / j.steps}%` }} />
              </span>
              <span className="font-mono">
                {j.done}/{j.steps}
              </span>
            </span>
          )}
        </span>
        <span className="text-right text-note">
          {j.promised_at ? (
            <span className={late ? "font-semibold text-error" : ""}>
              {late ? "late since " : "by "}
              <span className="font-mono">{weekdayAndTime(j.promised_at)}</span>
            </span>
          ) : (
            <span className="text-quiet">no promised time</span>
          )}
          {j.steps > 0 && j.left_min > 0 && (
            <span className="block text-fine text-quiet">{hours(j.left_min)} hands-on left</span>
          )}
        </span>
      </Link>
    </li>
  );
}

function Doing({ job: j, now }: { job: JobSummary; now: number }) {
  if (j.ready) return <b className="text-success">All checks done</b>;
  if (j.state === "arrived") return <span>Plan it: routes side by side</span>;
  const route = j.route ? `${routeName(j.route)}: ` : "";
  if (j.underway.length > 0)
    return (
      <span className="block truncate">
        {route}
        {j.underway.map((u) => `${shortName(u.person.name)} at “${u.title}”`).join(", ")}
      </span>
    );
  if (j.next)
    return (
      <span className="block truncate">
        {route}next <b>{j.next.title}</b>
      </span>
    );
  if (j.held_until)
    return (
      <span>
        {route}waits <span className="font-mono">{clockOf(Date.parse(j.held_until) - now)}</span>
      </span>
    );
  if (j.stops > 0) return <span className="font-semibold text-error">Something found holds it</span>;
  return <span>{route}nothing to start now</span>;
}
