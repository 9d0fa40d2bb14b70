import { useQuery } from "@tanstack/react-query";
import { Fragment, type ReactNode } from "react";
import { Link } from "react-router";
import { api, ask, type Waiting, type WaitingItem } from "../../api/client";
import { waitingOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { ago, dayAndTime, shortDay } from "../../ui/format";
import { useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { money } from "../../ui/money";
import { Empty, Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { verdictWords } from "../../words/wear";
import { Report } from "../due/Reports";

type Kind = WaitingItem["kind"];

/** What waits, by kind, in the order in which it is settled. */
const groups: Record<Kind, { title: string; about: string; show: (item: WaitingItem) => ReactNode }> = {
  release: {
    title: "Bikes to sign for",
    about: "An apprentice is done and asks for a mechanic's signature. Look at the bike, then hand it back.",
    show: (i) => <Release item={i} />,
  },
  verdict: {
    title: "Verdicts to sign",
    about: "An apprentice read a chain as worn. Look yourself; sign, or void the reading and take another.",
    show: (i) => <Verdict item={i} />,
  },
  report: {
    title: "Customer reports",
    about: "What customers told from their page. Accepted it counts, dismissed it does not.",
    show: (i) => <Told item={i} />,
  },
  comeback: {
    title: "Comebacks",
    about: "Back within a fortnight: look at the last job before this one is planned.",
    show: (i) => <Comeback item={i} />,
  },
  broken: {
    title: "Entries that cannot be read",
    about: "They count for nothing until somebody opens the bike and voids them.",
    show: (i) => <Broken item={i} />,
  },
  import: {
    title: "Ride files with questions",
    about: "They are taken in once their questions are answered.",
    show: (i) => <Import item={i} />,
  },
  unpaid: {
    title: "Not paid yet",
    about: "Handed back, and the money is still to come.",
    show: (i) => <Unpaid item={i} />,
  },
};

/** Everything that waits for a person, in one place. */
export function WaitingPlace() {
  const waiting = useQuery(waitingOptions);
  return (
    <div className="mx-auto flex max-w-5xl flex-col gap-3 p-3 sm:p-4">
      <Heading className="text-xl">Waiting for somebody</Heading>
      <Fetched query={waiting} what="what waits">
        {(w) => <All waiting={w} />}
      </Fetched>
    </div>
  );
}

function All({ waiting: { items } }: { waiting: Waiting }) {
  if (items.length === 0)
    return (
      <section className="card card-border bg-base-100">
        <Empty title="Nothing waits.">
          <p>
            Customer reports, what an apprentice did and a mechanic signs for, bikes that came back, questions of
            imports and what is not paid stand here until somebody settles them.
          </p>
          <ButtonLink to="/today">To today</ButtonLink>
        </Empty>
      </section>
    );
  const mine = items.filter((i) => i.mine);
  const others = items.filter((i) => !i.mine);
  return (
    <>
      {mine.length === 0 && <p className="text-quiet">Nothing here is yours to settle.</p>}
      <Groups items={mine} />
      {others.length > 0 && (
        <details className="card card-border bg-base-100 p-4">
          <summary className="min-h-(--target) content-center font-semibold">
            {others.length} {others.length === 1 ? "waits" : "wait"} for somebody else
          </summary>
          <ul className="mt-2">
            {others.map((i) => (
              <Line key={i.kind + i.id} item={i}>
                {groups[i.kind].title}
                {i.by && `, ${i.by}`}
              </Line>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

function Groups({ items }: { items: WaitingItem[] }) {
  return (Object.keys(groups) as Kind[])
    .filter((kind) => items.some((i) => i.kind === kind))
    .map((kind) => {
      const of = items.filter((i) => i.kind === kind);
      const g = groups[kind];
      return (
        <section
          key={kind}
          className="card card-border bg-base-100"
          aria-label={g.title}
          data-testid={`waiting-${kind}`}
        >
          <h2 className="px-4 pt-3 text-lg">
            {g.title} <span className="font-mono text-note font-normal text-quiet">{of.length}</span>
          </h2>
          <p className="px-4 pb-2 text-note text-quiet">{g.about}</p>
          <ul className="[&>li]:border-t [&>li]:border-base-300">
            {of.map((i) => (
              <Fragment key={i.id}>{g.show(i)}</Fragment>
            ))}
          </ul>
        </section>
      );
    });
}

/** Whose bike it is about, what waits, and what settles it. */
function Line({ item: i, children, actions }: { item: WaitingItem; children: ReactNode; actions?: ReactNode }) {
  return (
    <li
      className="flex flex-wrap items-center gap-x-4 gap-y-2 border-t border-base-300 px-4 py-2"
      data-testid="waiting"
    >
      <Link to={`/bikes/${i.tag}`} className="flex min-h-(--target) min-w-0 grow basis-72 items-center gap-3">
        <Tag tag={i.tag} size="small" />
        <span className="min-w-0">
          <span className="block break-words">
            <b>{i.customer}</b> <span className="text-quiet">{i.bike}</span>
          </span>
          <span className="block text-note break-words">{children}</span>
        </span>
      </Link>
      {actions && <span className="flex flex-wrap gap-2">{actions}</span>}
    </li>
  );
}

function Verdict({ item: i }: { item: WaitingItem }) {
  const sign = useWrite(
    (_: undefined, key) =>
      ask(
        api.POST("/measurements/{entry}/countersign", {
          params: { path: { entry: i.id }, header: { "Idempotency-Key": key } },
        }),
      ),
    [{ topic: "bike", tag: i.tag }],
  );
  return (
    <>
      <Line
        item={i}
        actions={
          <>
            <Button
              kind="main"
              aria-label={`Sign: ${i.tag}`}
              disabled={sign.isPending}
              onClick={() => sign.mutate(undefined)}
            >
              Sign
            </Button>
            <ButtonLink to={`/bikes/${i.tag}`}>Open the bike</ButtonLink>
          </>
        }
      >
        {i.by}: “{i.verdict && verdictWords[i.verdict]}”, {ago(i.at)}
      </Line>
      {sign.isError && <Failure error={sign.error} />}
    </>
  );
}

const Release = ({ item: i }: { item: WaitingItem }) => (
  <Line
    item={i}
    actions={
      <ButtonLink to={`/jobs/${i.id}`} kind="main">
        Open the job
      </ButtonLink>
    }
  >
    {i.by} asked {ago(i.at)}
  </Line>
);

const Told = ({ item: i }: { item: WaitingItem }) => (
  <Report report={{ id: i.id, told_at: i.at, ...i.report }}>
    <Link to={`/bikes/${i.tag}`} className="flex min-h-(--target) min-w-0 items-center gap-3">
      <Tag tag={i.tag} size="small" />
      <span className="min-w-0 break-words">
        <b>{i.customer}</b> <span className="text-quiet">{i.bike}</span>
      </span>
    </Link>
  </Report>
);

const Comeback = ({ item: i }: { item: WaitingItem }) => (
  <Line
    item={i}
    actions={
      <ButtonLink to={`/jobs/${i.id}`} kind="main">
        Open the job
      </ButtonLink>
    }
  >
    Booked in {dayAndTime(i.at)}
    {i.before && `; its last job was handed back ${shortDay(i.before)}`}
  </Line>
);

const Broken = ({ item: i }: { item: WaitingItem }) => (
  <Line item={i} actions={<ButtonLink to={`/bikes/${i.tag}`}>Open the bike</ButtonLink>}>
    {shortDay(i.at)}
    {i.by && `, ${i.by}`}: {i.why}
  </Line>
);

const Import = ({ item: i }: { item: WaitingItem }) => (
  <Line item={i} actions={<ButtonLink to={`/bikes/${i.tag}`}>Open the bike</ButtonLink>}>
    {i.name}, {i.by}, {ago(i.at)}
  </Line>
);

function Unpaid({ item: i }: { item: WaitingItem }) {
  const { currency } = useSession().shop;
  const pay = useWrite(
    (_: undefined, key) =>
      ask(
        api.PUT("/jobs/{job}/payment", {
          params: { path: { job: i.id }, header: { "Idempotency-Key": key } },
          body: { version: i.version ?? 1, paid: true },
        }),
      ),
    [{ topic: "job", tag: i.tag }],
  );
  return (
    <>
      <Line
        item={i}
        actions={
          <>
            <Button
              kind="main"
              aria-label={`Paid: ${i.tag}`}
              disabled={pay.isPending}
              onClick={() => pay.mutate(undefined)}
            >
              Paid
            </Button>
            <ButtonLink to={`/jobs/${i.id}`}>Open the job</ButtonLink>
          </>
        }
      >
        <b className="font-mono">{money(i.amount ?? 0, currency)}</b>, handed back {shortDay(i.at)}
      </Line>
      {pay.isError && <Failure error={pay.error} />}
    </>
  );
}
