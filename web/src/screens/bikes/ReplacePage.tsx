import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, type Bike, type Joint, type Replacement, type ReplacementPlan } from "../../api/client";
import { bikeOptions, replacementOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Checkbox, Input } from "../../ui/controls";
import { useDistance } from "../../ui/distance";
import { Fetched } from "../../ui/Fetched";
import { useForm } from "../../ui/form";
import { Heading } from "../../ui/Heading";
import { forget } from "../../ui/kept";
import { OdometerField } from "../../ui/OdometerField";
import { Choice, Failure, Field } from "../../ui/parts";
import { namesFields, useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { inShopUnits } from "../../ui/units";
import { bikeName, drivetrainLine, speeds } from "../../words/bikes";
import { checkWords, jointWords } from "../../words/fitting";
import { verdictWords } from "../../words/wear";
import { LinkChoice } from "./LinkChoice";
import { ChainChoice, Length, PartsWithIt } from "./ReplaceParts";
import { boxOf, checksOf, type Draft, isReplacing, replacementOf, startReplacing } from "./replacing";

/** A chain replaced, from the verdict to the bike that leaves the stand. */
export function ReplacePage() {
  const { tag = "" } = useParams();
  const bike = useQuery(bikeOptions(tag));
  const plan = useQuery(replacementOptions(tag));
  return (
    <Fetched query={bike} what={`the bike of tag ${tag}`}>
      {(b) => (
        <Fetched query={plan} what="what it needs">
          {(p) => <Replacing key={b.tag} bike={b} plan={p} />}
        </Fetched>
      )}
    </Fetched>
  );
}

function Replacing({ bike, plan }: { bike: Bike; plan: ReplacementPlan }) {
  const navigate = useNavigate();
  return <ReplaceForm bike={bike} plan={plan} done={() => navigate(`/bikes/${bike.tag}`)} />;
}

/** The form of a replacement: a page of its own, or part of a job, whose later steps are not asked for here. */
export function ReplaceForm(props: { bike: Bike; plan: ReplacementPlan; inJob?: boolean; done: () => void }) {
  const { bike, plan, inJob = false } = props;
  const d = useDistance();
  const slot = `pony.draft.replace.${bike.tag}`;
  const send = useWrite(
    (body: Replacement, key) =>
      ask(
        api.POST("/bikes/{tag}/replacement", {
          params: { path: { tag: bike.tag }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    [{ topic: "bike", tag: bike.tag }],
  );
  const form = useForm({
    start: startReplacing(plan, inJob ? bike.facts.chain_links : undefined),
    reads: replacementOf(plan, d),
    by: send,
    slot,
    fits: isReplacing,
  });
  const { typed: draft, set, fault } = form;
  const stocked = plan.chains.find((c) => c.id === draft.chain);
  const kept = plan.kept.find((c) => c.part_id === draft.chain);
  const box = boxOf(plan, draft);
  const boxHasLink = draft.from === "shelf" && stocked?.facts.has_joining_link === true;
  const checks = checksOf(plan, draft);
  const submit = () =>
    form.submit((body) =>
      send.mutate(body, {
        done: () => {
          forget(slot);
          props.done();
          window.setTimeout(() => forget(slot));
        },
      }),
    );
  const wrong = form.isWrong || namesFields(send.error);

  return (
    <form
      className={inJob ? "flex flex-col gap-3" : "mx-auto flex max-w-4xl flex-col gap-3 p-3 sm:p-4"}
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        if (!send.isPending) submit();
      }}
    >
      {!inJob && (
        <header className="flex flex-wrap items-center gap-x-4 gap-y-2">
          <Link to={`/bikes/${bike.tag}`} className="flex min-h-(--target) items-center">
            <Tag tag={bike.tag} size="middle" />
          </Link>
          <div className="min-w-0 grow basis-52">
            <Heading className="text-xl">Replace the chain</Heading>
            <p className="line-clamp-2 text-quiet">
              {bike.customer.name} · {bikeName(bike.facts)} · {drivetrainLine(bike.facts)}
            </p>
          </div>
        </header>
      )}
      <Advice plan={plan} />
      <Step title="Before it is opened: chain">
        <ChainChoice draft={draft} set={set} plan={plan} fault={fault} />
      </Step>
      <Step title="Its length">
        <Length
          bike={bike}
          draft={draft}
          set={set}
          box={box}
          boxHasLink={boxHasLink}
          plan={plan}
          fault={fault}
          keptLinks={kept?.links}
        />
      </Step>
      <Closing draft={draft} set={set} plan={plan} box={boxHasLink} error={send.error} />
      <Step title="What goes with it">
        <PartsWithIt draft={draft} set={set} />
        <Choice
          label="The old chain"
          value={draft.old || undefined}
          options={[
            { value: "scrapped", words: "Scrapped" },
            { value: "kept", words: "Kept, to go on again" },
          ]}
          choose={(old) => set({ old })}
        />
        <p className="text-note">
          {plan.grease === "strip-all"
            ? "This bike runs on wax: strip the new chain's grease to bare metal before it goes on. Drip wax a day before it is ridden."
            : "Keep the grease inside the new chain; wipe the sticky outside with a cloth damp with degreaser."}
        </p>
      </Step>
      <Checks draft={draft} set={set} checks={checks} fault={fault} />
      {((plan.advice.ride_test && !plan.later.includes("ride-test")) || draft.ride !== "") && (
        <RideTest draft={draft} set={set} fault={fault} />
      )}
      <Step title="For the record">
        <div className="grid gap-3 sm:grid-cols-[200px_minmax(0,1fr)]">
          <OdometerField
            label="Odometer"
            value={draft.odometer}
            set={(odometer) => set({ odometer })}
            fault={fault("odometer_km")}
          />
          <Field label="Note">
            {(a) => (
              <Input
                {...a}
                name="note"
                maxLength={1000}
                value={draft.note}
                onChange={(e) => set({ note: e.target.value })}
              />
            )}
          </Field>
        </div>
      </Step>
      {form.failure && <Failure error={form.failure} />}
      {wrong && (
        <p role="alert" className="font-semibold text-error">
          Not noted yet: see what is marked above.
        </p>
      )}
      <div className="sticky bottom-0 flex flex-wrap gap-3 border-t border-base-300 bg-base-200 py-3">
        <Button type="submit" kind="main" disabled={send.isPending}>
          {send.isPending ? "Sending…" : inJob ? "The new chain is on" : "Note the replacement"}
        </Button>
        {!inJob && (
          <ButtonLink to={`/bikes/${bike.tag}`} kind="quiet">
            Later
          </ButtonLink>
        )}
      </div>
    </form>
  );
}

type Fault = (path: string) => string | undefined;
type PartProps = { draft: Draft; set: (part: Partial<Draft>) => void };

/** The joint that closes the new chain. */
function Closing(props: PartProps & { plan: ReplacementPlan; box: boolean; error: unknown }) {
  const { draft, set, plan } = props;
  return (
    <Step title="What closes it">
      <Choice
        label="Joining link"
        value={draft.joint}
        options={(Object.keys(jointWords) as Joint[]).map((j) => ({ value: j, words: jointWords[j] }))}
        choose={(joint) => set({ joint })}
      />
      {draft.joint === "joining-link" ? (
        <LinkChoice
          draft={draft.link}
          set={(link) => set({ link })}
          old={plan.old_link}
          links={plan.links}
          box={props.box}
          pin={false}
          error={props.error}
        />
      ) : (
        <p className="text-note">One use; never opened again at the same place.</p>
      )}
    </Step>
  );
}

/** What is looked at before the bike leaves the stand. */
function Checks({ draft, set, checks, fault }: PartProps & { checks: ReplacementPlan["checks"]; fault: Fault }) {
  return (
    <Step title="After joining">
      <ul className="flex flex-col gap-1">
        {checks.map((c) => (
          <li key={c}>
            <label className="flex min-h-(--target) items-center gap-3 rounded-field border border-base-300 px-3 py-1.5 has-checked:bg-base-200">
              <Checkbox
                name={c}
                className="shrink-0"
                checked={draft.checks.includes(c)}
                onChange={(e) =>
                  set({ checks: e.target.checked ? [...draft.checks, c] : draft.checks.filter((x) => x !== c) })
                }
              />
              <span>
                <b>{checkWords[c].name}</b>
                <span className="block text-note text-quiet">{inShopUnits(checkWords[c].how)}</span>
              </span>
            </label>
          </li>
        ))}
      </ul>
      {fault("checks") && (
        <p role="alert" className="font-semibold text-error">
          Not every check is made yet: the job stays open until they are.
        </p>
      )}
    </Step>
  );
}

/** The old cassette under the new chain: does it skip under load. */
function RideTest({ draft, set, fault }: PartProps & { fault: Fault }) {
  return (
    <Step title="Ride test of the old cassette">
      <p className="border-l-4 border-rust pl-3 text-note">
        Warn the rider: a new chain on a worn cassette can skip under load. Test it standing, in the gears most used.
      </p>
      <Choice
        label="Under load"
        value={draft.ride || undefined}
        options={[
          { value: "no-skip", words: "Nothing skips" },
          { value: "skips", words: "It skips" },
        ]}
        choose={(ride) =>
          set({
            ride,
            ...(ride === "skips" && draft.fitted.sprockets === null
              ? { fitted: { ...draft.fitted, sprockets: "" } }
              : {}),
          })
        }
      />
      {draft.ride === "skips" && (
        <p className="text-note">Then the cassette goes too: it is under “What goes with it” now.</p>
      )}
      {fault("ride_test") && (
        <p role="alert" className="font-semibold text-error">
          {fault("ride_test")}
        </p>
      )}
    </Step>
  );
}

function Step({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="card card-border bg-base-100 flex flex-col gap-3 p-4" aria-label={title}>
      <h2 className="text-lg">{title}</h2>
      {children}
    </section>
  );
}

/** What the verdict asks for, and what the shelf has for it. */
function Advice({ plan }: { plan: ReplacementPlan }) {
  const a = plan.advice;
  return (
    <section className="card card-border bg-base-100 flex flex-col gap-2 p-4" aria-label="What it asks for">
      <h2 className="text-lg" data-testid="advice">
        {a.sprockets
          ? "Chain and cassette go together."
          : a.chain
            ? "The chain goes; ride-test the old cassette with the new one."
            : plan.verdict
              ? `The last reading says “${verdictWords[plan.verdict]}”: nothing has to be replaced.`
              : "This chain was not measured yet: nothing says that it must be replaced."}
      </h2>
      {a.look && <p>Check chainrings and jockey wheels too: hooked, thin or pointed teeth.</p>}
      {plan.missing.includes("no-chain") && (
        <p className="font-semibold text-due-ink">
          No{plan.sprockets ? ` ${speeds(plan.sprockets)}` : ""} chain is on the shelf.
        </p>
      )}
      {plan.missing.includes("no-joining-link") && (
        <p className="font-semibold text-due-ink">
          No{plan.sprockets ? ` ${speeds(plan.sprockets)}` : ""} joining link is on the shelf: have one before the chain
          is opened.
        </p>
      )}
    </section>
  );
}
