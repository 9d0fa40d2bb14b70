import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import { api, ask, type Bike, type Measurement, Problem } from "../../api/client";
import { bikeJobsOptions, bikeOptions } from "../../api/queries";
import { CreepStrip } from "../../draw/CreepStrip";
import { isProvisional } from "../../outbox/ids";
import { Archiving } from "../../ui/Archiving";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, For, Key } from "../../ui/controls";
import { useDistance } from "../../ui/distance";
import { ago, dayAndTime, percent, shortDay } from "../../ui/format";
import { useCommands, useMay } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Plate } from "../../ui/Plate";
import { Empty, Failure, Waiting } from "../../ui/parts";
import { sayError } from "../../ui/said";
import { useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { Unsent } from "../../ui/Unsent";
import { amount, fine } from "../../ui/units";
import { bikeKindWords, bikeName, drivetrainLine, ridingLine } from "../../words/bikes";
import { routeWords } from "../../words/cleaning";
import { schoolWords, verdictSentence, verdictWords, wearLine } from "../../words/wear";
import { useBenchBike } from "../bench/state";
import { BikeDue } from "../due/BikeDue";
import { Ledger } from "./Ledger";
import { Parts } from "./Parts";
import { Photo } from "./Photo";
import { Rides } from "./Rides";
import { Track } from "./Track";

/** One bike: who and what, the last verdict, and everything that happened. */
export function BikePage() {
  const { tag = "" } = useParams();
  const bike = useQuery(bikeOptions(tag));
  if (bike.isPending) return <Waiting what={`the bike of tag ${tag}`} />;
  if (bike.data === undefined) return <NoBike tag={tag} error={bike.error} again={() => bike.refetch()} />;
  // However the tag was typed, the page stands at its one address: changes are told under that.
  if (bike.data.tag !== tag) return <Navigate to={`/bikes/${bike.data.tag}`} replace />;
  return <Shown bike={bike.data} />;
}

function NoBike({ tag, error, again }: { tag: string; error: unknown; again: () => void }) {
  if (error instanceof Problem && error.body.status < 500)
    return (
      <div className="p-4">
        <div className="card card-border bg-base-100">
          <Empty title={sayError(error)}>
            <p>
              Press <Key>/</Key> to find the bike by its customer or make.
            </p>
            <ButtonLink to="/bikes">All bikes</ButtonLink>
          </Empty>
        </div>
      </div>
    );
  return (
    <div className="p-4" data-tag={tag}>
      <div className="card card-border bg-base-100 p-4">
        <Failure error={error} again={again} />
      </div>
    </div>
  );
}

function Shown({ bike }: { bike: Bike }) {
  const navigate = useNavigate();
  const putOnBench = useBenchBike();
  const d = useDistance();
  const [archiving, setArchiving] = useState(false);
  const measure = () => {
    putOnBench(bike.tag);
    navigate("/measure");
  };
  useCommands({
    m: { words: "Measure this bike's chain", run: measure },
    e: { words: "Change this bike's facts", may: "changeBike", run: () => navigate(`/bikes/${bike.tag}/edit`) },
    p: { words: "Print the tag", run: () => navigate(`/bikes/${bike.tag}/print`) },
    c: { words: "Take this bike in to be cleaned", may: "openJob", run: () => navigate(`/bikes/${bike.tag}/clean`) },
  });
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      {isProvisional(bike.tag) && (
        <p role="status" className="card card-border border-l-4 border-l-warning bg-base-100 px-4 py-2">
          Write it on the bike: {bike.tag}. The shop gives it a tag of its own when this tablet is connected; it is
          found by both.
        </p>
      )}
      <section
        className="card card-border bg-base-100 flex flex-wrap items-center gap-x-5 gap-y-3 px-4 py-3"
        aria-label="This bike"
      >
        <Tag tag={bike.tag} size="large" />
        <div className="min-w-0 basis-52 max-lg:grow">
          <Heading className="line-clamp-3 text-lg leading-tight" title={bike.customer.name}>
            {bike.customer.id ? (
              <Link to={`/customers/${bike.customer.id}`} className="underline-offset-4 hover:underline">
                {bike.customer.name}
              </Link>
            ) : (
              bike.customer.name
            )}
          </Heading>
          <p className="line-clamp-2 text-quiet" title={bikeName(bike.facts)}>
            {bikeName(bike.facts)}
          </p>
        </div>
        <div className="min-w-0 grow basis-64 text-note lg:border-l lg:border-base-300 lg:pl-5">
          <p>{drivetrainLine(bike.facts)}</p>
          <p className="text-quiet">{ridingLine(bike.facts, d)}</p>
        </div>
        <div className="flex flex-wrap gap-2 max-sm:w-full">
          <ButtonLink to={`/bikes/${bike.tag}/print`} className="max-sm:grow">
            Print tag <Key>P</Key>
          </ButtonLink>
          <ButtonLink to={`/bikes/${bike.tag}/edit`} may="changeBike" className="max-sm:grow">
            Change <Key>E</Key>
          </ButtonLink>
          <ButtonLink to={`/bikes/${bike.tag}/clean`} may="openJob" className="max-sm:grow">
            Book in <Key>C</Key>
          </ButtonLink>
          {!bike.archived && (
            <Button kind="main" may="recordMeasurement" className="max-sm:w-full" onClick={measure}>
              Measure <Key>M</Key>
            </Button>
          )}
        </div>
      </section>
      <InWork tag={bike.tag} />
      {bike.archived && (
        <div
          role="status"
          className="card card-border bg-base-100 flex flex-wrap items-center justify-between gap-3 border-l-4 border-l-warning px-4 py-2"
        >
          This bike is archived: its record stays, and nothing new is written to it.
          <Button may="archiveBike" onClick={() => setArchiving(true)}>
            Take out of the archive
          </Button>
        </div>
      )}
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3 lg:grid-cols-[minmax(0,1fr)_340px]">
        <div className="flex min-w-0 flex-col gap-3">
          <Unsent tag={bike.tag} />
          <LastWear tag={bike.tag} last={bike.last} measure={measure} archived={bike.archived} />
          <Track bike={bike} />
          <Ledger tag={bike.tag} />
        </div>
        <div className="flex min-w-0 flex-col gap-3">
          <BikeDue bike={bike} />
          <Parts bike={bike} />
          {!bike.archived && <Rides tag={bike.tag} />}
          <Facts bike={bike} archive={() => setArchiving(true)} />
        </div>
      </div>
      {archiving && (
        <Archiving
          what="this bike"
          archived={bike.archived}
          means={
            bike.archived
              ? "It shows among the bikes in care again, with all that happened before."
              : "It leaves the list of bikes in care. Its record stays and it can be taken out of the archive again."
          }
          send={() =>
            ask(
              api.PUT("/bikes/{tag}/archived", {
                params: { path: { tag: bike.tag } },
                body: { version: bike.version, archived: !bike.archived },
              }),
            )
          }
          touches={[{ topic: "bike", tag: bike.tag }]}
          close={() => setArchiving(false)}
        />
      )}
    </div>
  );
}

/** That the bike is in the workshop, and the way to its job. */
function InWork({ tag }: { tag: string }) {
  const open = useQuery(bikeJobsOptions(tag)).data?.find((j) => j.state === "arrived" || j.state === "planned");
  if (!open) return null;
  return (
    <section
      className="card card-border bg-base-100 flex flex-wrap items-center justify-between gap-3 border-l-4 border-l-accent px-4 py-2"
      aria-label="In the workshop"
    >
      <p>
        In the workshop since {dayAndTime(open.created_at)}
        {open.route && `, ${routeWords[open.route].name.toLowerCase()}`}
        {open.state === "arrived" && ", not planned yet"}.
      </p>
      <ButtonLink to={`/jobs/${open.id}`} kind="main">
        {open.state === "arrived" ? "Plan the job" : "Open the job"}
      </ButtonLink>
    </section>
  );
}

/** The last verdict that stands, with the strip it came from. */
function LastWear(props: { tag: string; last: Measurement | undefined; measure: () => void; archived: boolean }) {
  const { last } = props;
  if (!last)
    return (
      <section className="card card-border bg-base-100" aria-label="Wear">
        <Empty title="This chain was not measured yet.">
          <p>Read it at three places and its verdict will stand here, with the reasons.</p>
          {!props.archived && (
            <Button kind="main" onClick={props.measure}>
              Measure <Key>M</Key>
            </Button>
          )}
        </Empty>
      </section>
    );
  const w = last.wear;
  return (
    <section className="card card-border bg-base-100 p-4" aria-label="Wear">
      <div className="flex flex-wrap items-start justify-between gap-x-6 gap-y-2">
        <div className="min-w-0 basis-80 grow">
          <div className="flex items-center gap-3">
            <Plate state={last.state} size={28} />
            <span className="text-2xl leading-tight font-bold" data-testid="last-verdict">
              {verdictWords[w.verdict]}
            </span>
          </div>
          <p className="mt-1 max-w-prose">{verdictSentence(w)}</p>
          {last.unsigned && <Unsigned reading={last} tag={props.tag} />}
          {!props.archived && (w.verdict === "replace" || w.verdict === "replace-together") && (
            <ButtonLink to={`/bikes/${props.tag}/replace`} kind="main" className="mt-2">
              Replace the chain
            </ButtonLink>
          )}
          {last.recorded_verdict && (
            <p className="mt-1 text-note text-quiet">
              Recorded as “{verdictWords[last.recorded_verdict as keyof typeof verdictWords]}”: the rules or this bike's
              facts have changed since.
            </p>
          )}
        </div>
        <div className="lg:text-right">
          <div className="font-mono text-figure leading-tight font-semibold whitespace-nowrap">{wearLine(w)}</div>
          <p className="text-fine text-quiet">
            <time dateTime={last.taken_at} title={dayAndTime(last.taken_at)}>
              {ago(last.taken_at)}
            </time>{" "}
            by {last.by}, {last.instrument.name}
          </p>
        </div>
      </div>
      <div className="mt-3">
        <CreepStrip strip={last.strip} compact />
      </div>
      {w.play_per_joint_mm !== undefined && (
        <p className="mt-2 text-fine text-quiet">
          Play per link <b className="font-mono">{fine(w.play_per_joint_mm, 3)}</b>
          {last.growth_mm !== undefined && (
            <>
              ; the whole chain of {last.chain_links} links has grown{" "}
              <b className="font-mono">{amount("length", last.growth_mm)}</b>
            </>
          )}
          . Plates keep their length; pins and bushings wear, and the play adds up.
        </p>
      )}
    </section>
  );
}

/** Says that a verdict waits for a mechanic, who signs here. */
function Unsigned({ reading, tag }: { reading: Measurement; tag: string }) {
  const may = useMay("countersign");
  const sign = useWrite(
    (_: undefined, key) =>
      ask(
        api.POST("/measurements/{entry}/countersign", {
          params: { path: { entry: reading.entry_id }, header: { "Idempotency-Key": key } },
        }),
      ),
    [{ topic: "bike", tag }],
  );
  return (
    <div className="mt-2 flex flex-wrap items-center gap-3 border-l-4 border-l-warning pl-3" data-testid="unsigned">
      <p className="min-w-0 grow basis-60">
        <b>Waits for a mechanic's signature.</b> An apprentice read this chain as worn. Look yourself, then sign; or
        void the reading.
      </p>
      {may && (
        <Button disabled={sign.isPending} onClick={() => sign.mutate(undefined)}>
          Sign
        </Button>
      )}
      {sign.isError && <Failure error={sign.error} />}
    </div>
  );
}

function Facts({ bike, archive }: { bike: Bike; archive: () => void }) {
  const f = bike.facts;
  const known: [string, ReactNode][] = [];
  const add = (label: string, value: ReactNode, there: unknown) => {
    if (there !== undefined && there !== "" && there !== null) known.push([label, value]);
  };
  add("Kind", f.kind ? bikeKindWords[f.kind] : "", f.kind);
  add("Frame number", <span className="font-mono break-all">{f.frame_number}</span>, f.frame_number);
  add("Chain", <span className="font-mono">{f.chain_links} links</span>, f.chain_links);
  add(
    "Chainstay",
    <span className="font-mono">{f.chainstay_mm !== undefined && amount("length", f.chainstay_mm)}</span>,
    f.chainstay_mm,
  );
  add(
    "Chainstay growth at full travel",
    <span className="font-mono">{f.chainstay_growth_mm !== undefined && amount("length", f.chainstay_growth_mm)}</span>,
    f.chainstay_growth_mm,
  );
  add("Cage", <span className="font-mono">{f.cage_mm !== undefined && amount("length", f.cage_mm)}</span>, f.cage_mm);
  add("Clutch", f.clutch ? "yes" : "no", f.clutch);
  add("Capacity", <span className="font-mono">{f.capacity_teeth} teeth</span>, f.capacity_teeth);
  if (f.wear_school)
    add(
      "Wear rule",
      <>
        {schoolWords[f.wear_school].name}
        {f.limit_pct === undefined && f.limit_reason && (
          <span className="block text-fine text-quiet">{f.limit_reason}</span>
        )}
      </>,
      f.wear_school,
    );
  if (f.limit_pct !== undefined)
    add(
      f.limit_source === "maker" ? "Maker's limits" : "Limits of its own",
      <>
        <span className="font-mono">
          {percent(f.limit_pct)} / {percent(f.together_pct ?? 0)} %
        </span>
        {f.limit_reason && <span className="block text-fine text-quiet">{f.limit_reason}</span>}
      </>,
      f.limit_pct,
    );
  return (
    <aside className="card card-border bg-base-100 flex flex-col gap-2 p-4" aria-label="Facts">
      {bike.photo_at && <Photo bike={bike} />}
      <h2 className="text-fine font-semibold text-quiet">On record</h2>
      {known.length === 0 && <p className="text-quiet">Nothing beyond the customer yet.</p>}
      <dl>
        {known.map(([label, value]) => (
          <div key={label} className="flex justify-between gap-4 border-t border-base-300 py-1.5">
            <dt className="shrink-0 text-quiet">{label}</dt>
            <dd className="text-right">{value}</dd>
          </div>
        ))}
      </dl>
      {f.notes && (
        <>
          <h2 className="text-fine font-semibold text-quiet mt-1">Notes</h2>
          <p className="break-words whitespace-pre-wrap">{f.notes}</p>
        </>
      )}
      {!bike.photo_at && <Photo bike={bike} />}
      <p className="mt-1 text-fine text-quiet">In care since {shortDay(bike.added_at)}</p>
      <For may="getPassport">
        <a
          href={`/api/v1/bikes/${bike.tag}/passport`}
          download={`${bike.tag}-passport.json`}
          className="btn btn-link -ml-4 self-start text-note"
        >
          Passport for another shop
        </a>
      </For>
      {!bike.archived && (
        <Button kind="quiet" may="archiveBike" className="-ml-4 self-start text-note" onClick={archive}>
          Archive this bike
        </Button>
      )}
    </aside>
  );
}
