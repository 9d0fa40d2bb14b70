import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { JobSummary } from "../../api/client";
import { jobsOptions } from "../../api/queries";
import { Fetched } from "../../ui/Fetched";
import { shortName } from "../../ui/format";
import { Empty } from "../../ui/parts";
import { Tag } from "../../ui/Tag";
import { useServerTime } from "../../ui/Waits";
import { clockOf } from "../../ui/waits";
import { hours, routeName } from "../jobs/jobs";

/** What is in the workshop now: what can be handed back, what is worked on, what came in and is not planned. */
export function FloorPlace() {
  const jobs = useQuery(jobsOptions);
  const now = useServerTime();
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <h1 className="text-xl">Floor</h1>
      <Fetched query={jobs} what="the jobs">
        {(all) =>
          all.length === 0 ? (
            <section className="panel">
              <Empty title="No bike is in the workshop.">
                <p>Open a bike and take it in: what was seen, what the owner says, and by when.</p>
                <Link to="/bikes" className="deed-main">
                  Find the bike
                </Link>
              </Empty>
            </section>
          ) : (
            <>
              <Part title="Ready to hand back" jobs={all.filter((j) => j.ready)} now={now} />
              <Part title="In work" jobs={all.filter((j) => j.state === "planned" && !j.ready)} now={now} />
              <Part title="Came in, not planned yet" jobs={all.filter((j) => j.state === "arrived")} now={now} />
            </>
          )
        }
      </Fetched>
    </div>
  );
}

function Part({ title, jobs, now }: { title: string; jobs: JobSummary[]; now: number }) {
  if (jobs.length === 0) return null;
  return (
    <section aria-label={title}>
      <h2 className="label-small mb-1">
        {title} <span className="font-mono">{jobs.length}</span>
      </h2>
      <ul className="panel">
        {jobs.map((j) => (
          <Row key={j.id} job={j} now={now} />
        ))}
      </ul>
    </section>
  );
}

const day = new Intl.DateTimeFormat("en-GB", { weekday: "short", hour: "2-digit", minute: "2-digit" });

function Row({ job: j, now }: { job: JobSummary; now: number }) {
  const late = j.promised_at !== undefined && Date.parse(j.promised_at) < now;
  return (
    <li data-testid="job">
      <Link
        to={`/jobs/${j.id}`}
        className="row-link grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-4 gap-y-1 px-4 py-2 md:grid-cols-[minmax(0,1.1fr)_minmax(0,1.6fr)_140px]"
      >
        <span className="min-w-0">
          <Tag tag={j.tag} />
          <span className="mt-1 block truncate text-[14px] text-quiet">
            {j.owner.name}, {j.bike}
          </span>
        </span>
        <span className="min-w-0 max-md:order-last max-md:col-span-2">
          <Doing job={j} now={now} />
          {j.steps > 0 && (
            <span className="mt-1 flex items-center gap-2 text-[13px] text-quiet">
              <span className="block h-1.5 grow overflow-hidden rounded-full bg-base-300">
                <span className="block h-full bg-primary" style={{ width: `${(100 * j.done) / j.steps}%` }} />
              </span>
              <span className="font-mono">
                {j.done}/{j.steps}
              </span>
            </span>
          )}
        </span>
        <span className="text-right text-[14px]">
          {j.promised_at ? (
            <span className={late ? "font-semibold text-error" : ""}>
              {late ? "late since " : "by "}
              <span className="font-mono">{day.format(new Date(j.promised_at))}</span>
            </span>
          ) : (
            <span className="text-quiet">no time promised</span>
          )}
          {j.steps > 0 && j.left_min > 0 && (
            <span className="block text-[13px] text-quiet">{hours(j.left_min)} of hands left</span>
          )}
        </span>
      </Link>
    </li>
  );
}

function Doing({ job: j, now }: { job: JobSummary; now: number }) {
  if (j.ready) return <b className="text-success">Every check is made</b>;
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
  return <span>{route}nothing can be begun</span>;
}
