import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask, type Floor, type FloorJob, type FloorTry } from "../../api/client";
import { floorOptions, tryFloorQuestion } from "../../api/queries";
import { useAnswer } from "../../ui/answer";
import { dayOf, today } from "../../ui/days";
import { FormDialog } from "../../ui/FormDialog";
import { clock, weekday } from "../../ui/format";
import { useMay, useWhyNot } from "../../ui/frame";
import { Choice, Dialog, Failure, Tick } from "../../ui/parts";
import { faultAt, useWrite } from "../../ui/sending";
import { WhenField } from "../../ui/WhenField";
import { momentOf, readWhen, typedWhen } from "../../ui/when";
import { costWords } from "./floor";
import { type Go, named } from "./rail";

/** Puts what a change makes of the floor on the screen. */
export function useFloorChange(done: () => void) {
  const client = useQueryClient();
  const took = (floor: Floor) => {
    client.setQueryData(floorOptions.queryKey, floor);
    done();
  };
  const promise = useWrite(
    (p: { job: FloorJob; at: string | undefined; waiting: boolean }) =>
      ask(
        api.PUT("/jobs/{job}/promise", {
          params: { path: { job: p.job.job } },
          body: { version: p.job.version, waiting: p.waiting, ...(p.at ? { promised_at: p.at } : {}) },
        }),
      ),
    [{ topic: "job" }],
    took,
  );
  const keep = useWrite(
    (k: {
      job: string;
      step: string;
      also?: string[] | undefined;
      person: string | undefined;
      at?: string | undefined;
    }) =>
      ask(
        api.PUT("/jobs/{job}/steps/{step}/hands", {
          params: { path: { job: k.job, step: k.step } },
          body: {
            ...(k.person ? { person: k.person } : {}),
            ...(k.also ? { also: k.also } : {}),
            ...(k.at ? { at: k.at } : {}),
          },
        }),
      ),
    [{ topic: "job" }],
    took,
  );
  return { promise, keep };
}

function Cost({ what }: { what: FloorTry | null }) {
  const cost = useAnswer(tryFloorQuestion(what));
  if (!what) return null;
  if (cost.error) return <Failure error={cost.error} />;
  return (
    <p role="status" className="min-h-12 text-base" data-testid="would-cost">
      {cost.answer ? costWords(cost.answer) : "Seeing what that costs…"}
    </p>
  );
}

/** A job promised for another time, with what that would cost. */
export function PromiseDialog({ job, close }: { job: FloorJob; close: () => void }) {
  const was = job.promised_at ? typedWhen(job.promised_at) : "";
  const [at, setAt] = useState(was);
  const [waiting, setWaiting] = useState(job.waiting ?? false);
  const [unread, setUnread] = useState<string>();
  const { promise } = useFloorChange(close);
  const iso = momentOf(at);
  const why = useWhyNot("promiseJob");
  if (why)
    return (
      <Dialog title={`Promise of ${job.tag}`} close={close}>
        <p>{why}</p>
      </Dialog>
    );
  return (
    <FormDialog
      title={`Promise of ${job.tag}`}
      action={iso ? `Promise it by ${clock(iso)}` : at.trim() ? "Promise it" : "No promised time"}
      pending={promise.isPending}
      error={promise.error}
      close={close}
      send={() => {
        const read = readWhen(at, "moment");
        setUnread(read.is === "none" ? read.why : read.is === "twice" ? "Which of the two?" : undefined);
        if (read.is === "moment" || read.is === "nothing") promise.mutate({ job, at: iso, waiting });
      }}
    >
      <p>
        {job.customer.name}, {job.bike}.{" "}
        {job.finish_at ? (
          <>
            In the plan it is done at <b className="font-mono">{clock(job.finish_at)}</b>
            {dayOf(Date.parse(job.finish_at)) !== today() && ` on ${weekday(job.finish_at)}`}.
          </>
        ) : (
          "Not all of it has a place in the plan."
        )}
      </p>
      <WhenField label="Promised for" ask="moment" name="promised" value={at} set={setAt} fault={unread} />
      <Tick on={waiting} set={setWaiting}>
        Customer is waiting: being late counts three times
      </Tick>
      <Cost what={iso && at !== was ? { job: job.job, promised_at: iso } : null} />
    </FormDialog>
  );
}

/** A piece of work: whose it is, and who else could have it at what cost. */
export function StintDialog({ floor, go, close }: { floor: Floor; go: Go; close: () => void }) {
  const s = go.first;
  const [person, setPerson] = useState(s.kept_for ? s.person : "");
  const was = s.kept_at ? typedWhen(s.kept_at) : "";
  const [begins, setBegins] = useState(was);
  const [unread, setUnread] = useState<string>();
  const at = momentOf(begins);
  const { keep } = useFloorChange(close);
  const navigate = useNavigate();
  const open = useMay("keepStepFor") && !s.guess && (s.state === "planned" || s.state === "ready");
  const who = floor.people.find((p) => p.person.id === s.person)?.person.name ?? "somebody";
  const changed = person !== (s.kept_for ? s.person : "") || begins !== was;
  const keepIt = () => {
    const read = readWhen(begins, "moment");
    setUnread(read.is === "none" ? read.why : read.is === "twice" ? "Which of the two?" : undefined);
    if (read.is === "moment" || read.is === "nothing") keep.mutate({ ...named(go), person: person || undefined, at });
  };
  return (
    <FormDialog
      title={go.title}
      action={open && changed ? (person || at ? "Keep it so" : "Leave it to the plan") : "Open the job"}
      back="Close"
      pending={keep.isPending}
      error={keep.error}
      close={close}
      send={() => (open && changed ? keepIt() : navigate(`/jobs/${s.job}`))}
    >
      <p>
        <Link to={`/jobs/${s.job}`} className="font-mono underline">
          {s.tag}
        </Link>{" "}
        {s.bike}. {who}, from <span className="font-mono">{clock(s.start)}</span>
        {`, ${go.minutes} min in one go`}.{s.guess && " A guess: this bike is not planned yet."}
      </p>
      {open && (
        <>
          <Choice
            label="Who does it"
            value={person}
            options={[
              { value: "", words: "Whoever can" },
              ...floor.people.map((p) => ({ value: p.person.id, words: p.person.name })),
            ]}
            choose={setPerson}
          />
          <WhenField
            label="Begins at, if it must"
            ask="moment"
            name="begins"
            value={begins}
            set={setBegins}
            fault={unread ?? faultAt(keep.error, "at")}
          />
          <Cost what={changed ? { ...named(go), ...(person ? { person } : {}), ...(at ? { at } : {}) } : null} />
        </>
      )}
    </FormDialog>
  );
}
