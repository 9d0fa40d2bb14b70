import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask, type Job, type JobOption, type JobOptions, type JobOrder } from "../../api/client";
import { keys } from "../../api/keys";
import { rulesOptions, waysOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Input, Key, Select } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { useCommands, useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { money } from "../../ui/money";
import { Dialog, Failure, Field, Tick } from "../../ui/parts";
import { faultAt, namesFields, useWrite } from "../../ui/sending";
import { Unsent } from "../../ui/Unsent";
import { inShopUnits, signOf, unitOf } from "../../ui/units";
import { partsWords, reachWords, routeWords, washWords, whyWords } from "../../words/cleaning";
import { familyWords, lubeWhy, lubricantLine, materialWords } from "../../words/work";
import { InTime } from "../bikes/CleanPage";
import { minutes } from "../bikes/cleaning";
import { AgreedPrice } from "./Agreed";
import { JobHead } from "./JobHead";
import { amountWords, hours, lineWords } from "./jobs";
import { PhotoInput, Thumbnails, usePhoto } from "./photos";

/** The routes side by side, the recommended first, each with what it takes, costs and does not reach. */
export function PlanView({ job }: { job: Job }) {
  const ways = useQuery(waysOptions(job.id));
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <JobHead job={job} />
      <Unsent job={job.id} />
      <Pictures job={job} />
      <Fetched query={ways} what="the routes">
        {(o) => <Ways job={job} options={o} />}
      </Fetched>
    </div>
  );
}

/** Pictures from when it came in, for the owner and for putting it together again. */
function Pictures({ job }: { job: Job }) {
  const photo = usePhoto(job.id);
  useCommands({ p: { words: "Take a photo", run: photo.ask } });
  return (
    <section className="flex flex-wrap items-center gap-2" aria-label="Photos">
      <Button disabled={photo.sending} onClick={photo.ask}>
        {photo.sending ? "Sending…" : "Photo"} <Key>P</Key>
      </Button>
      <ButtonLink to={`/jobs/${job.id}/intake`}>Change what was seen</ButtonLink>
      <Thumbnails job={job} />
      <PhotoInput photo={photo} />
    </section>
  );
}

function Ways({ job, options }: { job: Job; options: JobOptions }) {
  const [picked, setPicked] = useState<JobOption | null>(null);
  const c = options.cleaning.choice;
  return (
    <>
      <section className="card card-border bg-base-100 p-4" aria-label="Why this one">
        <Heading className="text-xl">
          {routeWords[options.route].name} is recommended{job.route && job.route !== options.route ? " now" : ""}
        </Heading>
        <ul className="mt-1 max-w-prose">
          {c.reasons.map((r) => (
            <li key={r.code}>{whyWords(r.code)}</li>
          ))}
          {options.cleaning.verdict === undefined && (
            <li className="text-due-ink">The chain was not measured yet: reading it is the first step.</li>
          )}
        </ul>
        <InTime choice={c} />
      </section>
      <ul className="grid grid-cols-[minmax(0,1fr)] gap-3 sm:grid-cols-2 xl:grid-cols-3" aria-label="Routes">
        {options.options.map((o) => (
          <Way
            key={o.route}
            option={o}
            wanted={c.lubricant_next}
            recommended={o.route === options.route}
            promised={o.route === job.intake.route}
            chainGoes={c.reasons.some((r) => r.code === "chain-is-replaced")}
            pick={() => setPicked(o)}
          />
        ))}
      </ul>
      <Lubricants options={options} />
      {picked && <Agree job={job} options={options} option={picked} close={() => setPicked(null)} />}
    </>
  );
}

function Way(props: {
  option: JobOption;
  wanted: string;
  recommended: boolean;
  promised: boolean;
  chainGoes: boolean;
  pick: () => void;
}) {
  const { option: o, wanted, recommended, promised, chainGoes, pick } = props;
  const overrules = useSession().has.includes("overrule");
  const p = o.plan;
  const reach = reachWords(o.misses, o.against);
  return (
    <li
      data-testid={`way-${o.route}`}
      className={`card card-border bg-base-100 flex flex-col gap-2 p-4 ${recommended ? "border-2 border-accent" : ""}`}
    >
      <div className="flex items-baseline justify-between gap-2">
        <h2 className={`text-2xl leading-tight ${p ? "" : "text-quiet line-through"}`}>{routeWords[o.route].name}</h2>
        <span className="text-fine font-semibold text-quiet">
          {[p?.express && "Express", recommended && "Recommended", promised && "Promised"].filter(Boolean).join(" · ")}
        </span>
      </div>
      <p className="text-note text-quiet">{chainGoes ? partsWords[o.route] : routeWords[o.route].what}</p>
      {p ? (
        <>
          <dl className="flex flex-wrap justify-between gap-x-4 gap-y-1">
            <Fact label="Hands-on" value={hours(p.hands_min)} />
            <Fact label="Ridden in" value={hours(p.ride_min ?? p.ready_min)} />
            <Fact label="Price" value={money(p.quote.total, p.quote.currency)} />
          </dl>
          {p.route_min !== undefined && (
            <p className="text-note text-quiet">{minutes(p.route_min)} of it for the route itself.</p>
          )}
          {p.lubricant && <p className="text-note">On goes {lubricantLine(p.lubricant)}.</p>}
          {p.quote.high !== undefined && p.quote.high_route && (
            <p className="text-note">
              Up to <b>{money(p.quote.high, p.quote.currency)}</b> if it does not come clean and becomes a soak.
            </p>
          )}
          {reach && <p className="text-note text-quiet">{reach}</p>}
          {p.lubricant_next !== wanted && (
            <p className="text-note font-semibold text-due-ink">
              {familyWords[p.lubricant_next]} goes on, not{" "}
              {familyWords[wanted as keyof typeof familyWords]?.toLowerCase()}: that needs bare metal.
            </p>
          )}
          {o.baths.map((b) => (
            <p key={b.kind} className="text-note font-semibold text-error">
              {inShopUnits(b.message)}.{" "}
              <Link to="/stock/baths" className="underline underline-offset-4">
                See the baths
              </Link>
            </p>
          ))}
          {p.quote.unpriced.length > 0 && (
            <p className="text-note text-due-ink">
              On top, with no price set: {p.quote.unpriced.map((u) => materialWords(u).toLowerCase()).join(", ")}.
            </p>
          )}
          {o.against.length > 0 && (
            <p className="text-note text-due-ink first-letter:uppercase">{o.against.map(whyWords).join("; ")}</p>
          )}
          <details className="text-note">
            <summary className="min-h-(--target) content-center">Fluids and price</summary>
            <ul>
              {p.uses.map((a) => (
                <li key={a.material} className="flex justify-between gap-3 border-t border-base-300 py-1">
                  <span>{materialWords(a.material)}</span>
                  <span className="font-mono">{amountWords(a)}</span>
                </li>
              ))}
            </ul>
            <ul className="mt-2">
              {p.quote.lines.map((l) => (
                <li key={l.kind + l.code} className="flex justify-between gap-3 border-t border-base-300 py-1">
                  <span>{lineWords(l)}</span>
                  <span className="font-mono">{money(Math.round(l.amount), p.quote.currency)}</span>
                </li>
              ))}
            </ul>
          </details>
          {recommended || promised || overrules ? (
            <Button kind={recommended ? "main" : "plain"} className="mt-auto" onClick={pick}>
              Plan {routeWords[o.route].name.toLowerCase()}
            </Button>
          ) : (
            <p className="mt-auto text-note text-quiet">
              A mechanic decides on this, as it is not what is recommended.
            </p>
          )}
        </>
      ) : (
        <p className="text-note font-semibold text-error first-letter:uppercase">
          {o.refused.map(whyWords).join("; ")}
        </p>
      )}
    </li>
  );
}

function Fact({ label, value }: { label: string; value: string }) {
  return (
    <div>
      <dt className="text-fine font-semibold text-quiet">{label}</dt>
      <dd className="font-mono text-lg font-semibold">{value}</dd>
    </div>
  );
}

/** What goes on next, best first, with what it costs over the distance. */
function Lubricants({ options }: { options: JobOptions }) {
  const currency = useQuery(rulesOptions).data?.rules.currency ?? "EUR";
  const [first, second] = options.lubricants.choices;
  return (
    <section className="card card-border bg-base-100 p-4" aria-label="Lubricants">
      <h2 className="text-lg">
        For these rides: {first && familyWords[first.family]}
        {second && !second.refused && `, or ${familyWords[second.family]?.toLowerCase()}`}
      </h2>
      <ul className="mt-1">
        {options.lubricants.choices.map((c) => (
          <li key={c.family} className="flex flex-wrap justify-between gap-x-4 border-t border-base-300 py-1 text-note">
            <span className="min-w-0">
              <b className={c.refused ? "text-quiet line-through" : ""}>{familyWords[c.family]}</b>{" "}
              <span className="text-quiet">{c.for.map(lubeWhy).join(", ")}</span>
              {c.against.length > 0 && <span className="text-due-ink"> {c.against.map(lubeWhy).join(", ")}</span>}
            </span>
            <span className="font-mono">
              {c.cost_per_1000_km > 0 &&
                `${money(Math.round(unitOf("distance").si(c.cost_per_1000_km)), currency)} per 1000 ${signOf("distance")}, `}
              ridden in {minutes(c.ready_min)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What was agreed on: the price, the time and, where it is not as recommended, why. */
function Agree(props: { job: Job; options: JobOptions; option: JobOption; close: () => void }) {
  const { job, options, option, close } = props;
  const client = useQueryClient();
  const navigate = useNavigate();
  const quote = option.plan?.quote;
  const currency = quote?.currency ?? "EUR";
  const [wash, setWash] = useState<string>(options.cleaning.choice.wash);
  const [protect, setProtect] = useState(false);
  const [longSoak, setLongSoak] = useState(false);
  const overruled = option.route !== options.route || wash !== options.cleaning.choice.wash;
  const send = useWrite(
    (body: JobOrder) => ask(api.PUT("/jobs/{job}/plan", { params: { path: { job: job.id } }, body })),
    [{ topic: "job", tag: job.tag }],
    (planned) => {
      client.setQueryData(keys.job(job.id), planned);
      navigate(`/jobs/${job.id}`);
      close();
    },
  );
  const form = useForm({
    start: { reason: "", agreed: "" },
    reads: field.facts<Pick<JobOrder, "reason" | "agreed">>(
      field.object({ reason: field.words, agreed: field.money(currency) }),
    ),
    by: send,
  });
  const submit = () =>
    form.submit((said) =>
      send.mutate({
        version: job.version,
        route: option.route,
        wash,
        ...said,
        ...(protect ? { protect } : {}),
        ...(longSoak ? { long_soak: longSoak } : {}),
      }),
    );
  return (
    <Dialog title={`Plan: ${routeWords[option.route].name}`} close={close}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          submit();
        }}
      >
        {overruled && (
          <Field label="Why not as recommended" fault={form.fault("reason")}>
            {(a) => <Input {...a} {...form.text("reason")} maxLength={2000} />}
          </Field>
        )}
        <Field label="Wash" fault={form.fault("wash")}>
          {(a) => (
            <Select {...a} name="wash" value={wash} onChange={(e) => setWash(e.target.value)}>
              {options.cleaning.choice.washes.map((w) => (
                <option key={w.wash} value={w.wash} disabled={w.refused}>
                  {washWords[w.wash]}
                  {w.against.length > 0 ? ` (${w.against.map(whyWords).join("; ")})` : ""}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <AgreedPrice
          job={job}
          quote={quote}
          value={form.typed.agreed}
          set={(agreed) => form.set({ agreed })}
          fault={form.fault("agreed")}
        />
        {quote?.saved_min ? (
          <p className="text-note text-quiet">
            Done in one visit it saves {minutes(quote.saved_min)}
            {quote.saved_money ? `, ${money(quote.saved_money, currency)}` : ""}: set-up, wash and final checks once.
          </p>
        ) : null}
        {(option.plan?.chain_route === "soak" ||
          option.plan?.chain_route === "parts-off" ||
          option.plan?.chain_route === "strip") && (
          <Tick on={longSoak} set={setLongSoak}>
            The chain may soak overnight, where the degreaser's label allows it
          </Tick>
        )}
        <Tick on={protect} set={setProtect}>
          Protect the frame at the end
        </Tick>
        {send.isError && !namesFields(send.error) && <Failure error={send.error} />}
        {send.isError && namesFields(send.error) && faultAt(send.error, "route") && <Failure error={send.error} />}
        <div className="flex flex-wrap gap-2">
          <Button type="submit" kind="main" disabled={send.isPending}>
            Plan it
          </Button>
          <Button kind="quiet" onClick={close}>
            Cancel
          </Button>
        </div>
      </form>
      {job.state === "planned" && (
        <p className="text-note text-quiet">
          What is done stays done. <Link to={`/jobs/${job.id}`}>Back to the stand</Link>
        </p>
      )}
    </Dialog>
  );
}
