import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Bike, idempotencyKey, type Job } from "../../api/client";
import { keys } from "../../api/keys";
import { drop, sendAgain, withdraw } from "../../outbox/decided";
import { bodyOf, type Kept, stepOf } from "../../outbox/kinds";
import { builtOn, isOld, isSealed, stopped, useBroken, useUnsent } from "../../outbox/queue";
import { useReach } from "../../outbox/reach";
import { Button } from "../../ui/controls";
import { clock, dayAndTime, nearTime } from "../../ui/format";
import { useMay, useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Dialog, Empty, Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { behindBy } from "../../ui/shop";
import { bikeName } from "../../words/bikes";

/** When one was done, by the shop's clock. */
const doneAt = (k: Kept) => nearTime(new Date(k.at + k.behind).toISOString());

/** What this device keeps and did not send yet: what waits, what was refused, what somebody else wrote here. */
export function UnsentPlace() {
  const all = useUnsent();
  const me = useSession().person;
  const { reached, heard, since } = useReach();
  const broken = useBroken();
  const not = stopped(all);
  const sealed = all.filter((k) => isSealed(k) && k.author.id !== me.id);
  const open = all.filter((k) => !sealed.includes(k));
  const refused = open.filter((k) => k.refused || isOld(k));
  const waits = open.filter((k) => !not.has(k.key));
  return (
    <div className="flex max-w-4xl flex-col gap-3 p-3 sm:p-4">
      <Heading className="text-xl">To send</Heading>
      {broken && (
        <p role="alert" className="border-l-4 border-error bg-base-100 px-4 py-3 font-semibold">
          {broken}
        </p>
      )}
      {all.length === 0 ? (
        <Empty title="Everything is sent.">
          Without a connection, what is written at the stand is kept on this device and listed here until it is sent.
        </Empty>
      ) : (
        <p className="max-w-prose text-quiet">
          {reached
            ? "Sent by itself, in the order in which it was written; photos last."
            : `No connection since ${clock((heard || since) + behindBy())}. All of it is kept on this device and sent by itself, in order; photos last.`}
        </p>
      )}
      {refused.map((k) => (
        <Refused key={k.key} of={k} all={all} />
      ))}
      {waits.length > 0 && <Waiting list={waits} />}
      {grouped(sealed, (k) => k.author.id).map((list) => (
        <Sealed key={list[0]?.author.id} list={list} />
      ))}
    </div>
  );
}

/** Those that have the same together, in order; an old browser has no word for it. */
function grouped(list: Kept[], by: (k: Kept) => string): Kept[][] {
  const groups = new Map<string, Kept[]>();
  for (const k of list) groups.set(by(k), [...(groups.get(by(k)) ?? []), k]);
  return [...groups.values()];
}

/** What is about the same bike stands together, in order. */
function Waiting({ list }: { list: Kept[] }) {
  return grouped(list, (k) => k.tag ?? "").map((of) => (
    <section key={of[0]?.tag ?? ""} className="card card-border bg-base-100" aria-label={of[0]?.tag ?? "The shop"}>
      <h2 className="flex flex-wrap items-baseline gap-x-3 px-4 pt-3 pb-1">
        <About of={of[0]} />
      </h2>
      <ul>
        {of.map((k) => (
          <Line key={k.key} of={k} />
        ))}
      </ul>
    </section>
  ));
}

/** Which bike or job one is about. */
function About({ of: k }: { of: Kept | undefined }) {
  const client = useQueryClient();
  if (!k?.tag) return <span className="font-semibold">The shop's own</span>;
  const bike = client.getQueryData<Bike>(keys.bike(k.tag));
  return (
    <>
      <Link
        to={k.job ? `/jobs/${k.job}` : `/bikes/${k.tag}`}
        className="flex min-h-(--target) items-center font-mono font-semibold underline underline-offset-4"
      >
        {k.tag}
      </Link>
      {bike && <span className="min-w-0 font-normal wrap-anywhere text-quiet">{bikeName(bike.facts)}</span>}
    </>
  );
}

function Line({ of: k }: { of: Kept }) {
  const me = useSession().person;
  const [asking, setAsking] = useState(false);
  const more = builtOn([k.key]).size - 1;
  return (
    <li data-testid="unsent" className="flex items-center justify-between gap-x-4 border-t border-base-300 px-4 py-1.5">
      <span className="min-w-0 wrap-anywhere">
        {k.words}{" "}
        <span className="text-note text-quiet">
          {doneAt(k)}
          {k.author.id !== me.id && `, ${k.author.name}`}
          {isSealed(k) && ", sent once you sign in with your PIN"}
        </span>
      </span>
      <Button kind="quiet" className="shrink-0" onClick={() => (more > 0 ? setAsking(true) : void withdraw([k.key]))}>
        Take it back
      </Button>
      {asking && (
        <Dialog title="Take it back?" close={() => setAsking(false)}>
          <p>
            “{k.words}” and {more === 1 ? "the one thing" : `the ${more} things`} that came after it and{" "}
            {more === 1 ? "builds" : "build"} on it are not sent.
          </p>
          <div className="flex flex-wrap gap-2">
            <Button
              kind="main"
              onClick={() => {
                setAsking(false);
                void withdraw([k.key]);
              }}
            >
              Take {more + 1} back
            </Button>
            <Button kind="quiet" onClick={() => setAsking(false)}>
              Keep them
            </Button>
          </div>
        </Dialog>
      )}
    </li>
  );
}

/** One that the server refused, or that is old: both sides, and what a person may do about it. */
function Refused({ of: k, all }: { of: Kept; all: Kept[] }) {
  const after = all.filter((o) => o.key !== k.key && builtOn([k.key]).has(o.key));
  const { reached } = useReach();
  const dropping = useDropping(k.author.id);
  const old = !k.refused;
  return (
    <section
      className="card card-border border-l-4 border-l-error bg-base-100 flex flex-col gap-3 p-4"
      data-testid="refused"
      aria-label={`Not taken: ${k.words}`}
    >
      <h2 className="flex flex-wrap items-baseline gap-x-3">
        <span className="font-semibold text-error">{old ? "Kept for too long" : "Not taken"}</span> <About of={k} />
      </h2>
      <div className="grid gap-3 sm:grid-cols-2">
        <div>
          <h3 className="text-fine font-semibold text-quiet">Written here</h3>
          <p className="wrap-anywhere">{k.words}</p>
          <p className="text-note text-quiet">
            {dayAndTime(new Date(k.at + k.behind).toISOString())}, {k.author.name}
          </p>
        </div>
        <div>
          <h3 className="text-fine font-semibold text-quiet">In the shop</h3>
          <p>
            {old
              ? "After two weeks nobody can tell whether it arrived then. Look at the history: send it only if it is not there."
              : k.refused?.title}
          </p>
          <There of={k} />
        </div>
      </div>
      {after.length > 0 && (
        <div>
          <p className="text-note text-quiet">
            {after.length === 1
              ? "This came after it and waits with it:"
              : `These ${after.length} came after it and wait with it:`}
          </p>
          <ul className="mt-1 text-note">
            {after.slice(0, 8).map((o) => (
              <li key={o.key} className="wrap-anywhere">
                {o.words} <span className="text-quiet">{doneAt(o)}</span>
              </li>
            ))}
            {after.length > 8 && <li className="text-quiet">and {after.length - 8} more</li>}
          </ul>
        </div>
      )}
      {dropping.isError && <Failure error={dropping.error} />}
      <div className="flex flex-wrap gap-2">
        <Button disabled={!reached || dropping.isPending} onClick={() => void sendAgain([k.key])}>
          {old ? "It is not there: send it" : "Send it again"}
        </Button>
        <Button disabled={!reached || dropping.isPending} onClick={() => dropping.mutate([k])}>
          {after.length > 0 ? "Drop this, send the rest" : "Drop it"}
        </Button>
        {after.length > 0 && (
          <Button kind="quiet" disabled={!reached || dropping.isPending} onClick={() => dropping.mutate([k, ...after])}>
            Drop all {after.length + 1}
          </Button>
        )}
      </div>
      {!reached && <p className="text-note text-quiet">To be decided when there is a connection.</p>}
    </section>
  );
}

/** How what it is about stands on the server, where this device knows. */
function There({ of: k }: { of: Kept }) {
  const client = useQueryClient();
  const job = k.job ? client.getQueryData<Job>(keys.job(k.job)) : undefined;
  if (!job) return null;
  const name = stepOf(k);
  const only = bodyOf(k).step;
  const block = k.operation === "doBlock" ? job.blocks.find((b) => b.code === name)?.steps : undefined;
  const codes = typeof only === "string" ? [only] : (block ?? [name]);
  const steps = job.step_list.filter((s) => codes.includes(s.code) && s.by);
  if (steps.length === 0) return null;
  return (
    <ul className="mt-1 text-note text-quiet">
      {steps.map((s) => (
        <li key={s.code} className="wrap-anywhere">
          {s.title}: {s.state === "skipped" ? "left out" : s.state === "begun" ? "begun" : "done"} by {s.by}
          {s.done_at && `, ${nearTime(s.done_at)}`}
        </li>
      ))}
    </ul>
  );
}

/** What a colleague wrote here that is not sent without them: not shown, and dropped only by a mechanic, by name. */
function Sealed({ list }: { list: Kept[] }) {
  const [asking, setAsking] = useState(false);
  const may = useMay("countersign");
  const { reached } = useReach();
  const [first] = list;
  const dropping = useDropping(first?.author.id ?? "", () => setAsking(false));
  if (!first) return null;
  const many = list.length === 1 ? "One thing" : `${list.length} things`;
  return (
    <section
      className="card card-border bg-base-100 flex flex-wrap items-center justify-between gap-3 p-4"
      data-testid="sealed"
      aria-label={`Of ${first.author.name}`}
    >
      <p>
        <b>{first.author.name}</b>: {many} since {doneAt(first)}.{" "}
        <span className="text-quiet">Sent once {first.author.name} signs in here.</span>
      </p>
      {may && (
        <Button kind="quiet" disabled={!reached} onClick={() => setAsking(true)}>
          Drop them
        </Button>
      )}
      {asking && (
        <Dialog title={`Drop what ${first.author.name} wrote?`} close={() => setAsking(false)}>
          <p>
            {many} {list.length === 1 ? "is" : "are"} lost for good. History keeps that you dropped{" "}
            {list.length === 1 ? "it" : "them"}, and what {list.length === 1 ? "it was" : "they were"}.
          </p>
          {dropping.isError && <Failure error={dropping.error} />}
          <div className="flex flex-wrap gap-2">
            <Button kind="main" disabled={dropping.isPending} onClick={() => dropping.mutate(list)}>
              Drop what {first.author.name} wrote
            </Button>
            <Button kind="quiet" onClick={() => setAsking(false)}>
              Keep them
            </Button>
          </div>
        </Dialog>
      )}
    </section>
  );
}

/** Drops what is not sent, once the shop's history has that it was. */
function useDropping(author: string, done?: () => void) {
  return useWrite(
    async (list: Kept[]) => {
      const what = list.map((k) => `${k.tag ? `${k.tag}, ` : ""}${k.words}`.slice(0, 300));
      const params = { header: { "Idempotency-Key": idempotencyKey() } };
      await ask(api.POST("/unsent/dropped", { params, body: { of: author, what } }));
      await drop(list.map((k) => k.key));
      done?.();
    },
    [{ topic: "rules" }],
  );
}
