import { useParams } from "react-router";
import { useJob } from "../../outbox/job";
import { Fetched } from "../../ui/Fetched";
import { PlanView } from "./PlanView";
import { ReportView } from "./ReportPage";
import { StandView } from "./StandView";

/** A job: planned first, then worked at the stand, and what was done once the bike has gone. */
export function JobPage() {
  const { id = "" } = useParams();
  const job = useJob(id);
  return (
    <Fetched query={job} what="the job">
      {(j) => {
        switch (j.state) {
          case "arrived":
            return <PlanView key={j.id} job={j} />;
          case "planned":
            return <StandView key={j.id} job={j} />;
          case "handed-back":
          case "cancelled":
            return <ReportView job={j} />;
        }
      }}
    </Fetched>
  );
}

/** The ways to do a job once more, while it runs. */
export function ReplanPage() {
  const { id = "" } = useParams();
  const job = useJob(id);
  return (
    <Fetched query={job} what="the job">
      {(j) => <PlanView key={j.id} job={j} />}
    </Fetched>
  );
}
