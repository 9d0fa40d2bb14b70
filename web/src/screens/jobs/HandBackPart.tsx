import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, type HandBack, type Job, Problem } from "../../api/client";
import { keys } from "../../api/keys";
import { peopleOptions } from "../../api/queries";
import { useReach } from "../../outbox/reach";
import { Button, Input, Select } from "../../ui/controls";
import { dayAndTime } from "../../ui/format";
import { useMay, useSession } from "../../ui/frame";
import { money } from "../../ui/money";
import { Dialog, Failure, Field, Tick } from "../../ui/parts";
import { faultAt, namesFields, useWrite, writeOnce } from "../../ui/sending";
import { endOffers, offerBack } from "../../ui/undo";
import { waitWords } from "../../words/waits";
import { agreedBy, besideAgreed } from "./Agreed";

/** The hand-back, closed until everything that holds the bike is settled, and the way to cancel. */
export function HandBackPart({ job }: { job: Job }) {
  const [shown, setShown] = useState<"hand-back" | "cancel" | null>(null);
  const checks = job.holds.filter((h) => h.code === "check-open").length;
  const open = job.holds.length;
  return (
    <div className="flex flex-col gap-2">
      {!job.may.includes("hand-back") && <p className="text-note text-quiet">A mechanic hands the bike back.</p>}
      {!handsBack(job) && (
        <Button
          disabled={!job.may.includes("hand-back")}
          data-testid="hand-back"
          kind={open === 0 ? "main" : "plain"}
          className={open === 0 ? "" : "btn-dash text-quiet"}
          onClick={() => setShown("hand-back")}
        >
          {open === 0
            ? "Hand back"
            : checks > 0
              ? `Hand back · ${checks} ${checks === 1 ? "check" : "checks"} open`
              : `Hand back · ${open} open`}
        </Button>
      )}
      <Button kind="quiet" may="cancelJob" className="-ml-4 self-start text-note" onClick={() => setShown("cancel")}>
        Cancel the job
      </Button>
      {shown === "hand-back" && <HandBackDialog job={job} close={() => setShown(null)} />}
      {shown === "cancel" && <CancelDialog job={job} close={() => setShown(null)} />}
    </div>
  );
}

function useClosing<In>(job: Job, send: (input: In) => Promise<Job>, close: () => void) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const here = useRef(true);
  useEffect(() => {
    here.current = true;
    return () => {
      here.current = false;
    };
  }, []);
  return useWrite(send, [{ topic: "job", tag: job.tag }], (after) => {
    client.setQueryData(keys.job(job.id), after);
    endOffers(job.id);
    // Another screen's news may be here before the answer, and whoever sent it gone on to something else.
    if (!here.current) return;
    close();
    navigate(`/jobs/${job.id}`);
  });
}

const holdWords = { "check-open": "safety check", "step-open": "step", finding: "found", "wait-runs": "still waits" };

/** Whether nothing holds the bike and all is done: the hand-back then stands in the middle of the page. */
export const handsBack = (job: Job) =>
  job.holds.length === 0 && job.may.includes("hand-back") && job.step_list.every((s) => s.standing === "finished");

function HandBackDialog({ job, close }: { job: Job; close: () => void }) {
  return (
    <Dialog title={`Hand back ${job.tag}`} close={close}>
      <HandBackForm job={job} close={close} back={close} />
    </Dialog>
  );
}

const nothing = () => undefined;

/** What is still open, who signs with it, and the one press that hands the bike back. */
export function HandBackForm({ job, close = nothing, back }: { job: Job; close?: () => void; back?: () => void }) {
  const me = useSession().person;
  const away = !useReach().reached;
  const people = useQuery(peopleOptions).data ?? [];
  const second = people.filter((p) => p.id !== me.id && (p.role === "mechanic" || p.role === "owner"));
  const [secondId, setSecondId] = useState("");
  const [pin, setPin] = useState("");
  const [asked, setAsked] = useState(false);
  const [paid, setPaid] = useState(false);
  const send = useClosing(
    job,
    (body: HandBack) => ask(api.POST("/jobs/{job}/hand-back", { params: { path: { job: job.id } }, body })),
    close,
  );
  const signs = useMay("countersign");
  const asking = useClosing(
    job,
    (body: { version: number }) => ask(api.POST("/jobs/{job}/signature", { params: { path: { job: job.id } }, body })),
    close,
  );
  const steps = job.holds.filter((h) => h.code === "step-open");
  const mustAsk = send.error instanceof Problem && send.error.body.code === "ask-owner";
  return (
    <div className="flex flex-col gap-4">
      {job.holds.length > 0 && (
        <div data-testid="holds">
          <p className="font-semibold">Still open:</p>
          <ul className="mt-1">
            {job.holds
              .filter((h) => h.code !== "step-open")
              .map((h) => (
                <li key={h.code + h.what} className="flex justify-between gap-3 border-t border-base-300 py-1">
                  {h.code === "wait-runs" ? waitWords(h.says) : h.says}
                  <span className="font-semibold text-error">{holdWords[h.code]}</span>
                </li>
              ))}
            {steps.length > 0 && (
              <li className="border-t border-base-300 py-1 text-quiet">
                {steps.length === 1 ? "The step " : `${steps.length} steps: `}
                {steps
                  .slice(0, 6)
                  .map((h) => h.says.toLowerCase())
                  .join(", ")}
                {steps.length > 6 && " …"}
              </li>
            )}
          </ul>
        </div>
      )}
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({
            version: job.version,
            ...(secondId ? { second_id: secondId, second_pin: pin } : {}),
            ...(asked ? { asked } : {}),
            ...(paid ? { paid } : {}),
          });
          setPin("");
        }}
      >
        {job.holds.length === 0 && <Money job={job} paid={paid} setPaid={setPaid} />}
        {job.signature_asked && (
          <p className="border-l-4 border-l-accent pl-3" data-testid="signature-asked">
            {job.signature_asked.by} asked for a signature {dayAndTime(job.signature_asked.at)}.
            {!job.needs_second && signs && " Look at the bike: handing it back signs for it."}
          </p>
        )}
        {job.needs_second && (
          <fieldset className="flex flex-col gap-3">
            <legend className="fieldset-legend">Second signature</legend>
            {away && <p className="text-note text-quiet">A second signature needs a connection.</p>}
            <Field label="Who signs" fault={faultAt(send.error, "second_id")}>
              {(a) => (
                <Select {...a} name="second" value={secondId} onChange={(e) => setSecondId(e.target.value)}>
                  <option value="">Choose</option>
                  {second.map((p) => (
                    <option key={p.id} value={p.id}>
                      {p.name}
                    </option>
                  ))}
                </Select>
              )}
            </Field>
            <Field label="Their PIN" fault={faultAt(send.error, "second_pin")}>
              {(a) => (
                <Input
                  {...a}
                  name="second_pin"
                  type="password"
                  inputMode="numeric"
                  autoComplete="off"
                  value={pin}
                  onChange={(e) => setPin(e.target.value)}
                />
              )}
            </Field>
          </fieldset>
        )}
        {mustAsk && (
          <Tick on={asked} set={setAsked}>
            The customer was asked and agrees to the price
          </Tick>
        )}
        {send.isError && !(send.error instanceof Problem && send.error.body.code === "second-signature") && (
          <Failure error={send.error} />
        )}
        <div className="flex gap-2">
          <Button
            data-testid="hand-back-now"
            type="submit"
            kind="main"
            className={back ? "" : "min-h-16 grow text-xl"}
            disabled={send.isPending}
          >
            Hand back
          </Button>
          {job.needs_second && !signs && !job.signature_asked && job.holds.length === 0 && (
            <Button
              className={back ? "" : "min-h-16"}
              disabled={asking.isPending}
              onClick={() => asking.mutate({ version: job.version })}
            >
              Ask a mechanic to sign
            </Button>
          )}
          {back && (
            <Button kind="quiet" onClick={back}>
              Not yet
            </Button>
          )}
        </div>
        {asking.isError && <Failure error={asking.error} />}
      </form>
    </div>
  );
}

/** What it comes to beside what was agreed, and whether it is paid: said before the bike goes. */
function Money({ job, paid, setPaid }: { job: Job; paid: boolean; setPaid: (paid: boolean) => void }) {
  const { bill, agreed } = job;
  if (!bill) return null;
  return (
    <div className="flex flex-col gap-1" data-testid="money">
      <p className="flex flex-wrap items-baseline gap-x-3">
        <span>To pay</span>
        <b className="font-mono text-figure leading-tight">{money(bill.total, bill.currency)}</b>
        <span className={agreed && bill.total > agreed.price ? "font-semibold text-due-ink" : "text-note text-quiet"}>
          {agreed
            ? `${money(agreed.price, bill.currency)} was agreed${agreedBy(agreed) ? `, ${agreedBy(agreed)}` : ""}; ${besideAgreed(agreed, bill.total, bill.currency)}`
            : "no price was agreed"}
        </span>
      </p>
      {bill.total > 0 && (
        <Tick on={paid} set={setPaid}>
          It is paid
        </Tick>
      )}
    </div>
  );
}

function CancelDialog({ job, close }: { job: Job; close: () => void }) {
  const [reason, setReason] = useState("");
  const client = useQueryClient();
  const send = useClosing(
    job,
    async (body: { version: number; reason: string }) => {
      const params = { path: { job: job.id } };
      const after = await ask(api.POST("/jobs/{job}/cancel", { params, body }));
      offerBack(`Cancelled: the job of ${job.tag}`, async () => {
        const { version } = after;
        const again = () => ask(api.POST("/jobs/{job}/reopen", { params, body: { version } }));
        client.setQueryData(keys.job(job.id), await writeOnce(client, again, { topic: "job", tag: job.tag }));
      });
      return after;
    },
    close,
  );
  return (
    <Dialog title={`Cancel the job of ${job.tag}`} close={close}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate({ version: job.version, reason });
        }}
      >
        <Field label="Why" fault={faultAt(send.error, "reason")}>
          {(a) => (
            <Input
              {...a}
              name="cancel_reason"
              maxLength={2000}
              value={reason}
              onChange={(e) => setReason(e.target.value)}
            />
          )}
        </Field>
        {send.isError && !namesFields(send.error) && <Failure error={send.error} />}
        <div className="flex gap-2">
          <Button type="submit" kind="main" disabled={send.isPending}>
            Cancel the job
          </Button>
          <Button kind="quiet" onClick={close}>
            Keep it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
