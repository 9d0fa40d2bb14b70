import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, type Bike, type Joint, type Replacement, type ReplacementPlan } from "../../api/client";
import { bikeOptions, replacementOptions, sizerOptions } from "../../api/queries";
import { CutDrawing } from "../../draw/GearDrawing";
import { useDistance } from "../../ui/distance";
import { Fetched } from "../../ui/Fetched";
import { forget, useKept } from "../../ui/kept";
import { OdometerField } from "../../ui/OdometerField";
import { Choice, Failure, Field } from "../../ui/parts";
import { deed, faultAt, namesFields, useDeed } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { bikeName, checkWords, drivetrainLine, jointWords, lengthWarnings, verdictWords } from "../../ui/words";
import { fromBike, toQuestion } from "../sizer/draft";
import { LinkChoice, type LinkDraft, linkOf, noLink } from "./LinkChoice";

/** A chain replaced, from the verdict to the bike that leaves the stand. */
export function ReplacePage() {
  const { tag = "" } = useParams();
  const bike = useQuery(bikeOptions(tag));
  const plan = useQuery(replacementOptions(tag));
  return (
    <Fetched query={bike} what={`the bike of tag ${tag}`}>
      {(b) => (
        <Fetched query={plan} what="what it needs">
          {(p) => <Job key={b.tag} bike={b} plan={p} />}
        </Fetched>
      )}
    </Fetched>
  );
}

type Draft = {
  from: "shelf" | "kept" | "other";
  chain: string; // of the shelf, or the part that was kept
  what: string;
  sprockets: string; // that another chain is for
  box: string;
  links: string;
  joint: Joint;
  halfLink: boolean;
  direction: string;
  link: LinkDraft;
  old: "" | "kept" | "scrapped";
  fitted: { sprockets: string | null; rings: string | null; pulleys: string | null };
  checks: string[];
  ride: "" | "no-skip" | "skips";
  odometer: string;
  note: string;
};

function fits(v: unknown): v is Draft {
  const d = v as Draft;
  return (
    typeof v === "object" &&
    v !== null &&
    typeof d.from === "string" &&
    typeof d.links === "string" &&
    Array.isArray(d.checks) &&
    typeof d.link === "object" &&
    typeof d.fitted === "object"
  );
}

function start(plan: ReplacementPlan): Draft {
  const first = plan.chains.find((c) => c.facts.quantity > 0);
  return {
    from: first ? "shelf" : "other",
    chain: first?.id ?? "",
    what: "",
    sprockets: plan.sprockets ? String(plan.sprockets) : "",
    box: "",
    links: "",
    joint: "joining-link",
    halfLink: false,
    direction: "",
    link: { ...noLink, stock: plan.links.find((l) => l.facts.quantity > 0)?.id ?? "" },
    old: "scrapped",
    fitted: { sprockets: plan.advice.sprockets ? "" : null, rings: null, pulleys: null },
    checks: [],
    ride: "",
    odometer: "",
    note: "",
  };
}

function Job({ bike, plan }: { bike: Bike; plan: ReplacementPlan }) {
  const navigate = useNavigate();
  const d = useDistance();
  const slot = `pony.draft.replace.${bike.tag}`;
  const [draft, setDraft] = useKept<Draft>(slot, start(plan), fits);
  const set = (part: Partial<Draft>) => setDraft({ ...draft, ...part });
  const [faults, setFaults] = useState<Record<string, string>>({});
  const stocked = plan.chains.find((c) => c.id === draft.chain);
  const kept = plan.kept.find((c) => c.part_id === draft.chain);
  const box =
    draft.from === "shelf" ? stocked?.facts.box_links : draft.from === "kept" ? undefined : wholeOf(draft.box);
  const checks = plan.checks.filter((c) => c !== "joint-seated" || draft.joint === "joining-link");
  const send = useDeed(
    (body: Replacement, key) =>
      ask(
        api.POST("/bikes/{tag}/replacement", {
          params: { path: { tag: bike.tag }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    [["bike", bike.tag], ["bikes"], ["stock"], ["customers"]],
  );
  const fault = (path: string) => faults[path] ?? faultAt(send.error, path);
  const submit = () => {
    const odometer = draft.odometer.trim() === "" ? null : d.typed(draft.odometer);
    const links = draft.from === "kept" ? (kept?.links ?? wholeOf(draft.links)) : wholeOf(draft.links);
    const found: Record<string, string> = {};
    if (links === undefined) found["chain.links"] = "Count the links of the chain as it is closed.";
    if (odometer === undefined) found.odometer_km = d.wrong;
    setFaults(found);
    if (links === undefined || odometer === undefined) return;
    const width = wholeOf(draft.sprockets);
    const link = draft.joint === "joining-link" ? linkOf(draft.link) : undefined;
    const body: Replacement = {
      chain: {
        links,
        joint: draft.joint,
        ...(draft.from === "shelf" && draft.chain ? { stock_item_id: draft.chain } : {}),
        ...(draft.from === "kept" ? { kept_part_id: draft.chain } : {}),
        ...(draft.from === "other" ? { what: draft.what.trim(), ...(width ? { sprockets: width } : {}) } : {}),
        ...(box === undefined ? {} : { box_links: box }),
        ...(draft.halfLink ? { half_link: true } : {}),
        ...(draft.direction.trim() ? { direction: draft.direction.trim() } : {}),
      },
      ...(link ? { joining_link: link } : {}),
      old_chain: draft.old,
      grease: plan.grease,
      checks: checks.filter((c) => draft.checks.includes(c)),
      ride_test: draft.ride,
      ...(odometer === null ? {} : { odometer_km: odometer }),
      ...(draft.note.trim() ? { note: draft.note.trim() } : {}),
    };
    for (const part of ["sprockets", "rings", "pulleys"] as const) {
      const what = draft.fitted[part];
      if (what !== null) body[part] = what;
    }
    send.mutate(deed(body), {
      onSuccess: () => {
        forget(slot);
        navigate(`/bikes/${bike.tag}`);
        window.setTimeout(() => forget(slot));
      },
    });
  };
  const wrong = Object.keys(faults).length > 0 || namesFields(send.error);

  return (
    <form
      className="mx-auto flex max-w-4xl flex-col gap-3 p-3 sm:p-4"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        if (!send.isPending) submit();
      }}
    >
      <header className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <Link to={`/bikes/${bike.tag}`} className="flex min-h-(--target) items-center">
          <Tag tag={bike.tag} size="middle" />
        </Link>
        <div className="min-w-0 grow basis-52">
          <h1 className="text-xl">Replace the chain</h1>
          <p className="line-clamp-2 text-quiet">
            {bike.owner.name} · {bikeName(bike.facts)} · {drivetrainLine(bike.facts)}
          </p>
        </div>
      </header>
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
          boxHasLink={draft.from === "shelf" && stocked?.facts.has_joining_link === true}
          plan={plan}
          fault={fault}
          keptLinks={kept?.links}
        />
      </Step>
      <Step title="What closes it">
        <Choice
          label="Joint"
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
            box={draft.from === "shelf" && stocked?.facts.has_joining_link === true}
            pin={false}
            error={send.error}
          />
        ) : (
          <p className="text-[14px]">One use; never opened again at the same place.</p>
        )}
      </Step>
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
        <p className="text-[14px]">
          {plan.grease === "strip-all"
            ? "This bike runs on wax: strip the new chain's grease to bare metal before it goes on. Drip wax a day before it is ridden."
            : "Keep the grease inside the new chain; wipe the sticky outside with a cloth damp with degreaser."}
        </p>
      </Step>
      <Step title="After joining">
        <ul className="flex flex-col gap-1">
          {checks.map((c) => (
            <li key={c}>
              <label className="flex min-h-(--target) items-center gap-3 rounded-field border border-base-300 px-3 py-1.5 has-checked:bg-base-200">
                <input
                  type="checkbox"
                  name={c}
                  className="size-6 shrink-0 accent-primary"
                  checked={draft.checks.includes(c)}
                  onChange={(e) =>
                    set({ checks: e.target.checked ? [...draft.checks, c] : draft.checks.filter((x) => x !== c) })
                  }
                />
                <span>
                  <b>{checkWords[c].name}</b>
                  <span className="block text-[14px] text-quiet">{checkWords[c].how}</span>
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
      {(plan.advice.ride_test || draft.ride !== "") && (
        <Step title="Ride test of the old sprockets">
          <p className="border-l-4 border-rust pl-3 text-[14px]">
            Warn the rider: a new chain on worn sprockets can skip under load. Test it standing, in the gears most used.
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
            <p className="text-[14px]">Then the sprockets go too: they stand under “What goes with it” now.</p>
          )}
          {fault("ride_test") && (
            <p role="alert" className="font-semibold text-error">
              {fault("ride_test")}
            </p>
          )}
        </Step>
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
              <input
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
      {send.isError && !namesFields(send.error) && <Failure error={send.error} />}
      {wrong && (
        <p role="alert" className="font-semibold text-error">
          Not noted yet: see what is marked above.
        </p>
      )}
      <div className="sticky bottom-0 flex flex-wrap gap-3 border-t border-base-300 bg-base-200 py-3">
        <button type="submit" className="deed-main" disabled={send.isPending}>
          {send.isPending ? "Sending…" : "Note the replacement"}
        </button>
        <Link to={`/bikes/${bike.tag}`} className="deed-quiet">
          Later
        </Link>
      </div>
    </form>
  );
}

const wholeOf = (text: string) => (/^\d{1,4}$/.test(text.trim()) ? Number(text.trim()) : undefined);

function Step({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="panel flex flex-col gap-3 p-4" aria-label={title}>
      <h2 className="text-lg">{title}</h2>
      {children}
    </section>
  );
}

/** What the verdict asks for, and what the shelf has for it. */
function Advice({ plan }: { plan: ReplacementPlan }) {
  const a = plan.advice;
  return (
    <section className="panel flex flex-col gap-2 p-4" aria-label="What it asks for">
      <h2 className="text-lg" data-testid="advice">
        {a.sprockets
          ? "Chain and sprockets go together."
          : a.chain
            ? "The chain goes; ride-test the old sprockets with the new one."
            : plan.verdict
              ? `The last reading says “${verdictWords[plan.verdict]}”: nothing has to be replaced.`
              : "This chain was not read yet: nothing says that it must be replaced."}
      </h2>
      {a.look && <p>Look at rings and pulleys too: hooked or thin teeth, teeth that have come to a point.</p>}
      {plan.missing.includes("no-chain") && (
        <p className="font-semibold text-due-ink">
          No chain{plan.sprockets ? ` for ${plan.sprockets} sprockets` : ""} is on the shelf.
        </p>
      )}
      {plan.missing.includes("no-joining-link") && (
        <p className="font-semibold text-due-ink">
          No joining link{plan.sprockets ? ` for ${plan.sprockets} sprockets` : ""} is on the shelf: have one before the
          chain is opened.
        </p>
      )}
    </section>
  );
}

type PartProps = {
  draft: Draft;
  set: (part: Partial<Draft>) => void;
  plan: ReplacementPlan;
  fault: (path: string) => string | undefined;
};

function ChainChoice({ draft, set, plan, fault }: PartProps) {
  const choices: { from: Draft["from"]; id: string; words: string; more: string }[] = [
    ...plan.chains.map((c) => ({
      from: "shelf" as const,
      id: c.id,
      words: c.facts.name,
      more: `for ${c.facts.sprockets} sprockets${c.facts.box_links ? `, box of ${c.facts.box_links}` : ""}, ${c.facts.quantity} on the shelf`,
    })),
    ...plan.kept.map((c) => ({
      from: "kept" as const,
      id: c.part_id,
      words: `Kept: ${c.what || "a chain of this bike"}`,
      more: `${c.links ? `${c.links} links, ` : ""}ran ${Math.round(c.hard_km)} hard km`,
    })),
    { from: "other", id: "", words: "Another, not from the shelf", more: "" },
  ];
  const width = wholeOf(draft.sprockets);
  return (
    <>
      <fieldset className="flex min-w-0 flex-col gap-1.5">
        <legend className="label-small mb-1">Which chain</legend>
        {choices.map((c) => (
          <label
            key={c.from + c.id}
            className="flex min-h-(--target) items-center gap-3 rounded-field border border-base-300 px-3 has-checked:border-base-content has-checked:bg-base-200"
          >
            <input
              type="radio"
              name="chain"
              className="size-5 accent-primary"
              checked={draft.from === c.from && draft.chain === c.id}
              onChange={() => set({ from: c.from, chain: c.id })}
            />
            <span className="min-w-0">
              {c.words}
              {c.more && <span className="block text-[13px] text-quiet">{c.more}</span>}
            </span>
          </label>
        ))}
      </fieldset>
      {fault("chain.stock_item_id") && (
        <p role="alert" className="font-semibold text-error">
          {fault("chain.stock_item_id")}
        </p>
      )}
      {draft.from === "other" && (
        <div className="grid gap-2 sm:grid-cols-[minmax(0,1fr)_150px_150px]">
          <Field label="Which">
            {(a) => (
              <input
                {...a}
                name="what"
                maxLength={120}
                value={draft.what}
                onChange={(e) => set({ what: e.target.value })}
              />
            )}
          </Field>
          <Field label="For sprockets">
            {(a) => (
              <input
                {...a}
                name="sprockets"
                inputMode="numeric"
                maxLength={2}
                value={draft.sprockets}
                onChange={(e) => set({ sprockets: e.target.value })}
              />
            )}
          </Field>
          <Field label="In the box" unit="links">
            {(a) => (
              <input
                {...a}
                name="box"
                inputMode="numeric"
                maxLength={3}
                value={draft.box}
                onChange={(e) => set({ box: e.target.value })}
              />
            )}
          </Field>
        </div>
      )}
      {draft.from === "other" && plan.sprockets && width && width !== plan.sprockets && (
        <p className="border-l-4 border-warning pl-3 text-[14px] font-semibold">
          A chain for {width} sprockets on a bike with {plan.sprockets}: its width does not match.
        </p>
      )}
      <Field
        label="Direction, where it is marked"
        hint="Marking outward, arrow with the chain's travel on the top run."
      >
        {(a) => (
          <input
            {...a}
            name="direction"
            maxLength={120}
            value={draft.direction}
            onChange={(e) => set({ direction: e.target.value })}
          />
        )}
      </Field>
    </>
  );
}

type LengthProps = PartProps & {
  bike: Bike;
  box: number | undefined;
  boxHasLink: boolean;
  keptLinks: number | undefined;
};

/** How many links, by the sizer's answer for this bike and box, and where to cut. */
function Length({ bike, draft, set, box, boxHasLink, fault, keptLinks }: LengthProps) {
  const sizer = useQuery(
    sizerOptions({
      ...toQuestion(fromBike(bike.tag, bike.facts)).question,
      joint: draft.joint,
      ...(box === undefined ? {} : { box_links: box }),
      ...(boxHasLink ? { box_has_joining_link: true } : {}),
      ...(draft.halfLink ? { half_link: true } : {}),
    }),
  );
  const a = sizer.data;
  if (draft.from === "kept" && keptLinks)
    return (
      <p>
        It has <b className="font-mono">{keptLinks}</b> links already.
      </p>
    );
  return (
    <div className="grid gap-4 md:grid-cols-2">
      <div className="flex flex-col gap-2">
        {a?.length ? (
          <>
            <p>
              The sizer says <b className="font-mono text-xl">keep {a.length.keep_links}</b>
              {a.length.remove_links !== null && a.length.short_by_links === 0 && `, take off ${a.length.remove_links}`}
            </p>
            {a.length.warnings.map((w) => (
              <p key={w.code} className="border-l-4 border-error pl-3 text-[14px] font-semibold">
                {lengthWarnings[w.code]}
              </p>
            ))}
            <button
              type="button"
              className="deed-plain self-start"
              onClick={() => set({ links: String(a.length?.keep_links ?? "") })}
            >
              Take {a.length.keep_links}
            </button>
          </>
        ) : (
          <p className="text-quiet">
            Teeth and chainstay are not all on record: size it in the sizer, or count the old chain.
          </p>
        )}
        <Link to={`/sizer?tag=${bike.tag}`} className="min-h-(--target) self-start py-2 underline underline-offset-4">
          Look at it in the sizer
        </Link>
        <Field label="Links as it is closed" unit="links" fault={fault("chain.links")}>
          {(f) => (
            <input
              {...f}
              name="links"
              inputMode="numeric"
              maxLength={4}
              className={`${f.className} font-mono text-xl`}
              value={draft.links}
              onChange={(e) => set({ links: e.target.value })}
            />
          )}
        </Field>
        {bike.facts.drivetrain_kind !== "derailleur" && (
          <label className="flex min-h-(--target) items-center gap-3">
            <input
              type="checkbox"
              className="size-6 accent-primary"
              checked={draft.halfLink}
              onChange={(e) => set({ halfLink: e.target.checked })}
            />
            Closed with a half-link
          </label>
        )}
        {fault("chain.half_link") && <p className="font-semibold text-error">{fault("chain.half_link")}</p>}
      </div>
      {a?.cut && a.length?.short_by_links === 0 && (
        <div>
          <CutDrawing after={a.cut.links} lastInner={a.cut.last_inner} />
          <p className="text-[14px] text-quiet">
            Begin at an inner link, count {a.cut.links} and press out the pin after them. Never lay it beside the old
            chain: that one has grown.
          </p>
        </div>
      )}
    </div>
  );
}

function PartsWithIt({ draft, set }: Pick<PartProps, "draft" | "set">) {
  const words = { sprockets: "Sprockets", rings: "Rings", pulleys: "Pulleys" } as const;
  return (
    <div className="flex flex-col gap-2">
      {(["sprockets", "rings", "pulleys"] as const).map((part) => {
        const what = draft.fitted[part];
        return (
          <div key={part} className="grid items-center gap-2 sm:grid-cols-[200px_minmax(0,1fr)]">
            <label className="flex min-h-(--target) items-center gap-3">
              <input
                type="checkbox"
                name={`fit_${part}`}
                className="size-6 accent-primary"
                checked={what !== null}
                onChange={(e) => set({ fitted: { ...draft.fitted, [part]: e.target.checked ? "" : null } })}
              />
              New {words[part].toLowerCase()}
            </label>
            {what !== null && (
              <input
                className="entry"
                name={`what_${part}`}
                aria-label={`Which ${words[part].toLowerCase()}`}
                placeholder="which: 11–34, wide-spline freehub"
                maxLength={120}
                value={what}
                onChange={(e) => set({ fitted: { ...draft.fitted, [part]: e.target.value } })}
              />
            )}
          </div>
        );
      })}
    </div>
  );
}
