import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type RefObject, useRef, useState } from "react";
import { Link } from "react-router";
import { api, ask, type FindingRow, type Job, type NewFinding } from "../../api/client";
import { jobWordsOptions } from "../../api/queries";
import { money } from "../../ui/money";
import { Choice, Dialog, Failure, Field } from "../../ui/parts";
import { smaller } from "../../ui/picture";
import { deed, faultAt, namesFields, useDeed } from "../../ui/sending";
import { useChange } from "../../ui/useChange";
import { HandBackPart } from "./HandBackPart";
import { amountWords, hours, materialWords, routeName, severityWords } from "./jobs";

/** Beside the step: what the owner wants, the route and its price, amounts, what was found, and the hand-back. */
export function Beside({ job }: { job: Job }) {
  const words = useQuery(jobWordsOptions).data;
  const says = job.arrival.complaints.map((c) => words?.complaints.find((w) => w.code === c)?.says ?? c);
  const p = job.plan;
  return (
    <section className="panel flex flex-col gap-4 p-4 wrap-anywhere" aria-label="This job">
      <div>
        <p className="label-small truncate">
          {job.owner.name}, {job.bike}
        </p>
        {says.length > 0 && <p className="font-semibold">{says.join(", ")}</p>}
        {job.arrival.reports && <p className="text-[14px]">“{job.arrival.reports}”</p>}
        {job.arrival.wants && <p className="text-[14px]">Wants: {job.arrival.wants}</p>}
        {job.comeback && (
          <Link to={`/jobs/${job.comeback.id}`} className="text-[14px] text-due-ink underline underline-offset-4">
            Comes back: the job before
          </Link>
        )}
      </div>
      {p && (
        <div>
          <p className="label-small">Route</p>
          <p className="text-lg font-semibold">{routeName(p.route)}</p>
          {p.reason && <p className="text-[14px] text-quiet">Not as recommended: {p.reason}</p>}
          <p className="text-[14px] text-quiet">
            hands {hours(job.hands_min)}, so far {hours(Math.round(job.worked_min))}
          </p>
          <div className="mt-1 h-2 overflow-hidden rounded-full bg-base-300" aria-hidden>
            <div
              className={`h-full ${job.worked_min > job.hands_min ? "bg-error" : "bg-primary"}`}
              style={{ width: `${Math.min(100, (100 * job.worked_min) / Math.max(1, job.hands_min))}%` }}
            />
          </div>
          <p className="mt-1 font-mono text-[14px]">
            {money(p.quote.total, p.quote.currency)} quoted
            {job.agreed !== undefined && `, ${money(job.agreed, p.quote.currency)} agreed`}
          </p>
        </div>
      )}
      {p && p.uses.length > 0 && (
        <details>
          <summary className="label-small min-h-(--target) content-center">For this bike</summary>
          <ul className="text-[14px]">
            {p.uses.map((a) => (
              <li key={a.material} className="flex justify-between gap-2 border-t border-base-300 py-1">
                <span>{materialWords(a.material)}</span>
                <span className="text-right font-mono">{amountWords(a)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
      <Found job={job} />
      <Thumbnails job={job} />
      {job.notes.length > 0 && (
        <ul className="flex flex-col gap-1 text-[14px]" aria-label="Notes">
          {job.notes.map((n) => (
            <li key={n.at + n.text} className="break-words">
              {n.text} <span className="text-quiet">{n.by.split(" ")[0]}</span>
            </li>
          ))}
        </ul>
      )}
      <HandBackPart job={job} />
      <nav aria-label="Papers" className="flex flex-wrap gap-x-3 text-[14px]">
        <Link className="min-h-(--target) content-center underline underline-offset-4" to={`/jobs/${job.id}/ticket`}>
          Ticket
        </Link>
        <Link className="min-h-(--target) content-center underline underline-offset-4" to={`/jobs/${job.id}/report`}>
          Owner's words
        </Link>
        <Link className="min-h-(--target) content-center underline underline-offset-4" to={`/jobs/${job.id}/plan`}>
          Plan anew
        </Link>
        <Link className="min-h-(--target) content-center underline underline-offset-4" to={`/bikes/${job.tag}/replace`}>
          Parts
        </Link>
      </nav>
    </section>
  );
}

/** The pictures of a job, small; a tap opens one. */
export function Thumbnails({ job }: { job: Job }) {
  if (job.photos.length === 0) return null;
  return (
    <ul className="flex flex-wrap gap-1.5" aria-label="Photos">
      {job.photos.map((ph) => (
        <li key={ph.id}>
          <a href={`/api/v1/job-photos/${ph.id}`} target="_blank" rel="noreferrer">
            <img
              src={`/api/v1/job-photos/${ph.id}?small=true`}
              alt={`Taken by ${ph.by}`}
              className="h-16 rounded-field border border-base-300"
            />
          </a>
        </li>
      ))}
    </ul>
  );
}

function Found({ job }: { job: Job }) {
  const words = useQuery(jobWordsOptions).data;
  if (job.findings.length === 0) return null;
  return (
    <div>
      <p className="label-small">Found so far</p>
      <ul>
        {job.findings.map((f) => (
          <Finding
            key={f.id}
            job={job}
            finding={f}
            says={words?.findings.find((w) => w.code === f.code)?.says ?? f.code}
          />
        ))}
      </ul>
    </div>
  );
}

function Finding({ job, finding: f, says }: { job: Job; finding: FindingRow; says: string }) {
  const client = useQueryClient();
  const settle = useChange(
    (resolution: "fixed" | "owner-told") =>
      ask(
        api.PUT("/jobs/{job}/findings/{finding}", {
          params: { path: { job: job.id, finding: f.id } },
          body: { resolution },
        }),
      ),
    (after) => client.setQueryData(["jobs", job.id], after),
  );
  return (
    <li className="border-t border-base-300 py-2 text-[14px]" data-testid="finding">
      <p>
        {f.code === "other" ? f.note : says}
        {f.place && `, ${f.place}`}{" "}
        <b className={f.severity === "stop" && !f.resolution ? "text-error" : "text-quiet"}>
          {f.resolution === "fixed"
            ? "fixed"
            : f.resolution === "owner-told"
              ? "owner told, leaves unridden"
              : severityWords[f.severity].toLowerCase()}
        </b>
      </p>
      {f.note && f.code !== "other" && <p className="text-quiet">{f.note}</p>}
      {!f.resolution && (
        <div className="mt-1 flex flex-wrap gap-2">
          <button type="button" className="deed-plain px-3 text-[14px]" onClick={() => settle.mutate("fixed")}>
            Fixed
          </button>
          {f.severity === "stop" && (
            <button type="button" className="deed-plain px-3 text-[14px]" onClick={() => settle.mutate("owner-told")}>
              Owner told, leaves unridden
            </button>
          )}
        </div>
      )}
      {settle.isError && <Failure error={settle.error} />}
    </li>
  );
}

/** Notes something that was found; what must hold the bike holds it. */
export function FindingDialog({ job, close }: { job: Job; close: () => void }) {
  const client = useQueryClient();
  const words = useQuery(jobWordsOptions).data;
  const [code, setCode] = useState("");
  const [severity, setSeverity] = useState<"note" | "soon" | "stop">();
  const [place, setPlace] = useState("");
  const [note, setNote] = useState("");
  const kind = words?.findings.find((w) => w.code === code);
  const send = useDeed(
    async (body: NewFinding, key) => {
      const params = { path: { job: job.id }, header: { "Idempotency-Key": key } };
      client.setQueryData(["jobs", job.id], await ask(api.POST("/jobs/{job}/findings", { params, body })));
      close();
    },
    [["jobs"]],
  );
  return (
    <Dialog title="What was found" close={close}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate(
            deed({
              code,
              ...(severity ? { severity } : {}),
              ...(place.trim() ? { place: place.trim() } : {}),
              ...(note.trim() ? { note: note.trim() } : {}),
            }),
          );
        }}
      >
        <Field label="Finding" fault={faultAt(send.error, "code")}>
          {(a) => (
            <select
              {...a}
              name="finding"
              value={code}
              onChange={(e) => {
                setCode(e.target.value);
                setSeverity(undefined);
              }}
            >
              <option value="">Choose</option>
              {words?.findings.map((w) => (
                <option key={w.code} value={w.code}>
                  {w.says}
                </option>
              ))}
            </select>
          )}
        </Field>
        {kind &&
          (kind.fixed ? (
            <p className="font-semibold text-error">
              Holds the bike until it is fixed, or a mechanic signs that the owner was told.
            </p>
          ) : (
            <Choice
              label="How bad"
              value={severity ?? kind.severity}
              options={(["note", "soon", "stop"] as const).map((value) => ({ value, words: severityWords[value] }))}
              choose={setSeverity}
            />
          ))}
        <Field label="Where">
          {(a) => (
            <input {...a} name="place" maxLength={200} value={place} onChange={(e) => setPlace(e.target.value)} />
          )}
        </Field>
        <Field label="Note" fault={faultAt(send.error, "note")}>
          {(a) => <input {...a} name="note" maxLength={2000} value={note} onChange={(e) => setNote(e.target.value)} />}
        </Field>
        {send.isError && !namesFields(send.error) && <Failure error={send.error} />}
        <div className="flex gap-2">
          <button type="submit" className="deed-main" disabled={send.isPending}>
            Note it
          </button>
          <button type="button" className="deed-quiet" onClick={close}>
            Leave it
          </button>
        </div>
      </form>
    </Dialog>
  );
}

export function NoteDialog({ job, close }: { job: Job; close: () => void }) {
  const client = useQueryClient();
  const [text, setText] = useState("");
  const send = useDeed(
    async (body: { text: string }, key) => {
      const params = { path: { job: job.id }, header: { "Idempotency-Key": key } };
      client.setQueryData(["jobs", job.id], await ask(api.POST("/jobs/{job}/notes", { params, body })));
      close();
    },
    [["jobs"]],
  );
  return (
    <Dialog title="Note" close={close}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate(deed({ text }));
        }}
      >
        <Field label="Note" fault={faultAt(send.error, "text")}>
          {(a) => (
            <textarea
              {...a}
              name="text"
              rows={3}
              maxLength={4000}
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
          )}
        </Field>
        {send.isError && !namesFields(send.error) && <Failure error={send.error} />}
        <div className="flex gap-2">
          <button type="submit" className="deed-main" disabled={send.isPending}>
            Write it down
          </button>
          <button type="button" className="deed-quiet" onClick={close}>
            Leave it
          </button>
        </div>
      </form>
    </Dialog>
  );
}

export type PhotoTaking = {
  input: RefObject<HTMLInputElement | null>;
  ask: () => void;
  choose: (file: File | undefined) => Promise<void>;
  unreadable: boolean;
  error: unknown;
  sending: boolean;
};

/** Takes pictures of a job with the tablet's camera. */
export function usePhoto(job: string): PhotoTaking {
  const client = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const [unreadable, setUnreadable] = useState(false);
  const send = useDeed(
    async (picture: Blob) => {
      const after = await ask(
        api.POST("/jobs/{job}/photos", {
          params: { path: { job } },
          headers: { "Content-Type": "application/octet-stream" },
          body: picture as unknown as string, // the contract's word for bytes
          bodySerializer: (b) => b,
        }),
      );
      client.setQueryData(["jobs", job], after);
    },
    [["jobs"]],
  );
  return {
    input,
    ask: () => input.current?.click(),
    choose: async (file) => {
      if (!file) return;
      try {
        setUnreadable(false);
        send.mutate(deed(await smaller(file)));
      } catch {
        setUnreadable(true);
      }
    },
    unreadable,
    error: send.error,
    sending: send.isPending,
  };
}

export function PhotoInput({ photo }: { photo: PhotoTaking }) {
  return (
    <>
      {photo.unreadable && (
        <p role="alert" className="font-semibold text-error">
          This file is not a picture that can be kept.
        </p>
      )}
      {photo.error !== null && photo.error !== undefined && <Failure error={photo.error} />}
      <input
        ref={photo.input}
        name="job_photo"
        type="file"
        accept="image/*"
        capture="environment"
        className="hidden"
        aria-label="Photo of the job"
        onChange={(e) => {
          void photo.choose(e.target.files?.[0]);
          e.target.value = ""; // the same file may be chosen again
        }}
      />
    </>
  );
}
