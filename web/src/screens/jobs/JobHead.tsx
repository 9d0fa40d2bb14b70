import { Link } from "react-router";
import type { Job } from "../../api/client";
import { dayAndTime } from "../../ui/format";
import { Tag } from "../../ui/Tag";
import { Complaints } from "./JobWords";

/** Which bike a job is on, what its owner says and wants, and by when. */
export function JobHead({ job }: { job: Job }) {
  return (
    <section
      className="card card-border bg-base-100 flex flex-wrap items-center gap-x-5 gap-y-2 px-4 py-3"
      aria-label="This job"
    >
      <Link
        to={`/bikes/${job.tag}`}
        className="inline-flex min-h-(--target) items-center"
        aria-label={`Open the bike of tag ${job.tag}`}
      >
        <Tag tag={job.tag} size="middle" />
      </Link>
      <div className="min-w-0 grow basis-52">
        <p className="truncate font-semibold">{job.customer.name}</p>
        <p className="truncate text-note text-quiet">{job.bike}</p>
      </div>
      <div className="min-w-0 grow basis-60 text-note wrap-anywhere">
        <Complaints codes={job.intake.complaints} />
        {job.intake.reports && <p>“{job.intake.reports}”</p>}
        {job.intake.wants && <p className="text-quiet">Customer asked for: {job.intake.wants}</p>}
        <p className="text-quiet">
          Frame {job.intake.frame_grade}, drivetrain {job.intake.drivetrain_grade}
          {job.promised_at && `, promised for ${dayAndTime(job.promised_at)}`}
          {job.promised?.by && ` by ${job.promised.by}${job.promised.on ? `, ${dayAndTime(job.promised.on)}` : ""}`}
        </p>
      </div>
      {job.comeback && (
        <p className="basis-full border-l-4 border-warning pl-3 text-note">
          It comes back within two weeks of{" "}
          <Link to={`/jobs/${job.comeback.id}`} className="underline underline-offset-4">
            the job before
          </Link>
          {job.comeback.closed_at && `, handed back ${dayAndTime(job.comeback.closed_at)}`}.
        </p>
      )}
    </section>
  );
}
