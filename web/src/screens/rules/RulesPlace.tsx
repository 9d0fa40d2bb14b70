import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { api, ask, type Rules, type RulesView } from "../../api/client";
import { rulesOptions } from "../../api/queries";
import { Conflict, versionsOf } from "../../ui/Conflict";
import { Button, Key } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import * as field from "../../ui/fields";
import { useForm } from "../../ui/form";
import { dayAndTime } from "../../ui/format";
import { useMay, useSession, useWhyNot } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { forget } from "../../ui/kept";
import { Empty, Failure } from "../../ui/parts";
import { faultUnder, useWrite } from "../../ui/sending";
import { type Draft, fromDraft, isDraft, toDraft } from "./draft";
import { changedParts, isPart, type Part, type PartName, parts } from "./parts";

/** One part of how the shop does things, at its own address. */
export function RulesPlace() {
  const { part } = useParams();
  const rules = useQuery(rulesOptions);
  if (!isPart(part)) return <Empty title="There is no such setting." />;
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>{parts[part].name}</Heading>
      <Fetched query={rules} what="the settings">
        {(view) => <RulesForm view={view} part={part} />}
      </Fetched>
    </div>
  );
}

const slot = "pony.draft.rules";

const rulesOf = (was: Rules) =>
  field.together((draft: Draft) => {
    const { rules, faults } = fromDraft(draft, was);
    return { is: rules, faults };
  });

/** What is typed of the settings: one draft of all parts, so that whoever turns to another part loses nothing. */
export function useRulesForm(view: RulesView) {
  const send = useWrite(
    (body: { version: number; rules: Rules }) => ask(api.PUT("/rules", { body })),
    [{ topic: "rules" }],
  );
  const start = toDraft(view.rules);
  const form = useForm({ start, reads: rulesOf(view.rules), by: send, version: view.version, slot, fits: isDraft });
  // Rules that nobody changed here follow what is saved elsewhere.
  const dirty = !same(form.typed, start);
  const draft = dirty ? form.typed : start;
  const version = dirty ? form.version : view.version;
  const save = (over: number, then?: () => void) =>
    form.submit((rules) =>
      send.mutate(
        { version: over, rules },
        {
          done: (now) => {
            // What was changed while the answer was under way is kept, and saved next time.
            form.saved((at) => (same(at, draft) ? toDraft(now.rules) : at), now.version);
            forget(slot);
            then?.();
          },
        },
      ),
    );
  return {
    draft,
    dirty,
    changed: changedParts(draft, start),
    pending: send.isPending,
    error: send.error,
    isWrong: form.isWrong,
    change: (part: Partial<Draft>) => (dirty ? form.set(part) : form.restart({ ...start, ...part }, version)),
    fault: (path: string) => form.fault(`rules.${path}`) ?? faultUnder(send.error, `rules.${path}`),
    /** Saves, and goes on when it is saved; at once where nothing was changed. */
    save: (then?: () => void) => (dirty || !then ? save(version, then) : then()),
    keepMine: (theirs: RulesView) => {
      form.over(theirs.version);
      save(theirs.version);
    },
    take: (rules: Rules, over: number) => {
      form.restart(toDraft(rules), over);
      send.reset();
    },
  };
}

/** Two versions of the settings where somebody was quicker, and what else kept them from being saved. */
export function NotSaved({ form }: { form: ReturnType<typeof useRulesForm> }) {
  const versions = versionsOf(form.error);
  const theirs = versions?.theirs as RulesView | undefined;
  if (versions && theirs)
    return (
      <Conflict
        yours={versions.yours as Record<string, unknown>}
        theirs={theirs.rules}
        keepMine={() => form.keepMine(theirs)}
        takeTheirs={() => form.take(theirs.rules, theirs.version)}
      />
    );
  return form.error !== null ? <Failure error={form.error} /> : null;
}

export function RulesForm({ view, part }: { view: RulesView; part: PartName }) {
  const may = useMay("changeRules");
  const owner = useSession().has.includes("settings"); // else the minutes of steps alone
  const why = useWhyNot("changeRules");
  const form = useRulesForm(view);
  const mine = owner || (may && part === "minutes");
  const is: Part = parts[part];
  const screen = useRef<HTMLFormElement>(null);
  useFoundInView(screen);
  return (
    <form
      ref={screen}
      className="flex flex-col gap-3"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        if (!form.pending) form.save();
      }}
    >
      {!mine && (
        <p role="status" className="card card-border bg-base-100 border-l-4 border-l-warning px-4 py-2">
          {why ?? "The shop's owner sets this."} You can read it.
        </p>
      )}
      <fieldset disabled={!mine} className="flex min-w-0 flex-col gap-3">
        {is.show({ view, draft: form.draft, change: form.change, fault: form.fault })}
      </fieldset>
      <NotSaved form={form} />
      {form.isWrong && (
        <p role="alert" className="font-semibold text-error">
          Some fields are not right yet{form.changed.some((n) => n !== part) ? ", here or in what else is changed" : ""}
          .
        </p>
      )}
      {mine && <SaveBar view={view} form={form} part={part} />}
    </form>
  );
}

function SaveBar({ view, form, part }: { view: RulesView; form: ReturnType<typeof useRulesForm>; part: PartName }) {
  const elsewhere = form.changed.filter((n) => n !== part);
  return (
    <div className="sticky bottom-0 flex flex-wrap items-center gap-3 border-t border-base-300 bg-base-200 py-3">
      <Button type="submit" kind="main" disabled={form.pending || !form.dirty}>
        Save the settings <Key>Enter</Key>
      </Button>
      {form.dirty && !form.pending && (
        <Button kind="quiet" onClick={() => form.take(view.rules, view.version)}>
          Leave as they were
        </Button>
      )}
      {elsewhere.length > 0 && (
        <span className="text-note">
          Also changed and saved with it:{" "}
          {elsewhere.map((n, i) => (
            <span key={n}>
              {i > 0 && ", "}
              <Link to={`/settings/${n}`} className="link">
                {parts[n].name}
              </Link>
            </span>
          ))}
        </span>
      )}
      <span className="text-fine text-quiet">
        {view.changed_at ? (
          <>
            Last changed {dayAndTime(view.changed_at)} by {view.changed_by}
          </>
        ) : (
          "As every shop begins"
        )}
      </span>
    </div>
  );
}

const same = (a: Draft, b: Draft) => JSON.stringify(a) === JSON.stringify(b);

/** Brings what was looked for into view, and the focus to it: the label that the address names. */
function useFoundInView(screen: { current: HTMLElement | null }) {
  const [search] = useSearchParams();
  const at = search.get("at")?.toLowerCase();
  useEffect(() => {
    if (!at || !screen.current) return;
    const labels = [...screen.current.querySelectorAll("label, legend, h2, summary, td, button")];
    const label = labels.find((l) => l.textContent?.trim().toLowerCase().startsWith(at));
    if (!label) return;
    label.scrollIntoView({ block: "center" });
    const first = () => label.parentElement?.querySelector<HTMLElement>("input, button");
    const field =
      label instanceof HTMLLabelElement ? label.control : label.matches("button, summary") ? label : first();
    if (field instanceof HTMLElement) field.focus({ preventScroll: true });
  }, [at, screen]);
}
