import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { api, ask, type BenchQuestion, type Job, type StepView } from "../../api/client";
import { benchQuestion, bikeOptions, instrumentsOptions, replacementOptions } from "../../api/queries";
import { Asked, useAnswer } from "../../ui/answer";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Input, Select } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { useSession } from "../../ui/frame";
import { useKept } from "../../ui/kept";
import { Field } from "../../ui/parts";
import { inShopUnits } from "../../ui/units";
import { verdictWords, wearLine } from "../../words/wear";
import { useBench, useBenchBike } from "../bench/state";
import { LinkChoice, type LinkDraft, linkOf, noLink } from "../bikes/LinkChoice";
import { ReplaceForm } from "../bikes/ReplacePage";
import { wasteAmount, wasteKinds, wasteText } from "../stores/waste";

// What a block wants recorded is entered on its own page: readings, what closes the chain, the new chain, waste.

/** What the open steps of a block want recorded, what each shows for it, and how it is sent with the block's one press. */
export function useInPlace(job: Job, open: StepView[], fitted: () => void) {
  const wants = (what: StepView["opens"]) => open.some((s) => s.opens === what);
  const reading = useReading(job, wants("readings"));
  const waste = useWaste(job, wants("waste"));
  const link = useLink(job, wants("joining-link"));
  const of = (step: StepView): ReactNode => {
    switch (step.opens) {
      case "readings":
        return reading.field;
      case "waste":
        return waste.field;
      case "joining-link":
        return link.field;
      case "new-chain":
        return <NewChain job={job} fitted={fitted} />;
      default:
        return null;
    }
  };
  return {
    of,
    /** What closed the chain, where that is among the steps that are ended. */
    opening: (ends: StepView[]) => (ends.some((s) => s.opens === "joining-link") ? link.opening : undefined),
    /** Sends what was entered for the steps that are ended; tells whether a reading condemned the chain. */
    record: async (key: string, ends: StepView[]): Promise<boolean> => {
      const of = (what: StepView["opens"]) => ends.some((s) => s.opens === what);
      const verdict = of("readings") ? await reading.record(`${key}-r`) : undefined;
      if (of("waste")) await waste.record(`${key}-w`);
      return verdict === "replace" || verdict === "replace-together";
    },
  };
}

type Reading = { tool: string; texts: string[] };

const isReading = (v: unknown): v is Reading =>
  typeof (v as Reading)?.tool === "string" && Array.isArray((v as Reading).texts);

const noReading: Reading = { tool: "", texts: [] };

/** A small bench: the tool, a field for each place, and what it comes to. */
function useReading(job: Job, asked: boolean) {
  const { shop } = useSession();
  const all = useQuery({ ...instrumentsOptions, enabled: asked }).data ?? [];
  const tools = all.filter((t) => t.kind !== "gauge-dropin" && t.kind !== "pull-off");
  const [draft, setDraft] = useKept<Reading>(`pony.reading.${job.id}`, noReading, isReading);
  const [bench] = useBench(shop.wear_places);
  const tool = [draft.tool, bench.instrument].map((id) => tools.find((t) => t.id === id)).find((t) => t) ?? tools[0];
  const entries = draft.texts.flatMap((text, i) => (text.trim() ? [{ place: i + 1, text }] : []));
  const question: BenchQuestion | null =
    asked && tool && entries.length > 0 ? { instrument_id: tool.id, entries, tag: job.tag } : null;
  const answer = useAnswer(benchQuestion(question));
  const putOnBench = useBenchBike();
  const type = (place: number, text: string) => {
    const texts = Array.from({ length: shop.wear_places }, (_, i) => draft.texts[i] ?? "");
    texts[place] = text;
    setDraft({ ...draft, texts });
  };
  const field = (
    <div className="flex basis-full flex-col gap-2 pb-2" data-testid="reading">
      <ButtonLink
        to="/measure"
        kind="quiet"
        className="-ml-4 self-start text-note"
        onClick={() => putOnBench(job.tag, `/jobs/${job.id}`)}
      >
        Another tool, or what was seen of it
      </ButtonLink>
      {tool ? (
        <div className="flex flex-wrap items-end gap-2">
          <Field label="Measured with">
            {(a) => (
              <Select
                {...a}
                name="reading_tool"
                value={tool.id}
                onChange={(e) => setDraft({ tool: e.target.value, texts: [] })}
              >
                {tools.map((t) => (
                  <option key={t.id} value={t.id}>
                    {t.name}
                  </option>
                ))}
              </Select>
            )}
          </Field>
          {Array.from({ length: shop.wear_places }, (_, i) => i).map((i) => (
            <Place
              key={i}
              at={i + 1}
              value={draft.texts[i] ?? ""}
              fault={answer.answer?.entries.find((e) => e.place === i + 1)?.fault?.message}
              type={(text) => type(i, text)}
            />
          ))}
        </div>
      ) : (
        <p className="text-note text-quiet">No tool that is read in figures is set up.</p>
      )}
      {question && (
        <Asked of={answer}>
          {(a) =>
            a.wear ? (
              <p aria-live="polite">
                <b>{verdictWords[a.wear.verdict]}</b> <span className="text-quiet">{wearLine(a.wear)}</span>
              </p>
            ) : null
          }
        </Asked>
      )}
    </div>
  );
  return {
    field,
    record: async (key: string): Promise<string | undefined> => {
      if (!asked || !question) return undefined; // the job may have its reading from elsewhere
      const { tag, ...body } = question;
      const params = { path: { tag: tag ?? job.tag }, header: { "Idempotency-Key": key } };
      const read = await ask(api.POST("/bikes/{tag}/measurements", { params, body }));
      setDraft({ ...draft, texts: [] });
      // Kept to be sent: what it means is known when there is a connection.
      return (read as typeof read | undefined)?.wear.verdict;
    },
  };
}

function Place(props: { at: number; value: string; fault: string | undefined; type: (text: string) => void }) {
  const { fault } = props;
  return (
    <div className="w-28">
      <Field label={`Place ${props.at}`} fault={fault === undefined ? undefined : inShopUnits(fault)}>
        {(a) => (
          <Input
            {...a}
            name={`reading_${props.at}`}
            inputMode="decimal"
            autoComplete="off"
            maxLength={40}
            className="font-mono"
            value={props.value}
            onChange={(e) => props.type(e.target.value)}
            onKeyDown={(e) => {
              if (e.key !== "Enter") return;
              e.preventDefault(); // goes on to the next place, and from the last one out of the fields
              const next = document.querySelector<HTMLElement>(`input[name=reading_${props.at + 1}]`);
              if (next) next.focus();
              else e.currentTarget.blur();
            }}
          />
        )}
      </Field>
    </div>
  );
}

/** What closes the chain again: what is known is chosen already. */
function useLink(job: Job, asked: boolean) {
  const plan = useQuery({ ...replacementOptions(job.tag), enabled: asked }).data;
  const [typed, setTyped] = useState<LinkDraft>();
  const shelf = plan?.links.find((l) => l.facts.quantity > 0);
  const draft = typed ?? (shelf ? { ...noLink, stock: shelf.id } : noLink);
  const field = plan ? (
    <div className="basis-full pb-2">
      <LinkChoice draft={draft} set={setTyped} old={plan.old_link} links={plan.links} box={false} pin error={null} />
    </div>
  ) : null;
  return { field, opening: asked && plan ? openingOf(draft) : undefined };
}

/** How an opening is counted; nothing where nobody said what closed it. */
export const openingOf = (d: LinkDraft) => {
  if (d.from === "shelf" && !d.stock) return undefined;
  const link = linkOf(d);
  return link ? { joining_link: link } : {};
};

type Waste = { kind: (typeof wasteKinds)[number]["kind"]; text: string };

const isWaste = (v: unknown): v is Waste =>
  typeof (v as Waste)?.text === "string" && wasteKinds.some((k) => k.kind === (v as Waste).kind);

/** What was thrown away, filled in from what the job used. */
function useWaste(job: Job, asked: boolean) {
  const spent = job.step_list
    .filter((s) => s.state === "done")
    .flatMap((s) => s.amounts)
    .filter((a) => a.material === "degreaser")
    .reduce((ml, a) => ml + a.amount + (a.water_ml ?? 0), 0);
  const [typed, setTyped] = useState<Waste>();
  const draft = typed ?? { kind: "oily-water", text: spent > 0 ? wasteText(spent) : "" };
  const amount = draft.text.trim() === "" ? 0 : wasteAmount(draft.kind, draft.text);
  const field = (
    <div className="flex basis-full flex-wrap items-end gap-2 pb-2" data-testid="waste-line">
      <Field label="What">
        {(a) => (
          <Select
            {...a}
            name="waste_kind"
            value={draft.kind}
            onChange={(e) => {
              const next = { ...draft, kind: e.target.value };
              if (isWaste(next)) setTyped(next);
            }}
          >
            {wasteKinds.map((k) => (
              <option key={k.kind} value={k.kind}>
                {k.words}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <div className="w-32">
        <Field label="About how much" fault={amount === undefined ? "A figure, as 0.3." : undefined}>
          {(a) => (
            <Input
              {...a}
              name="waste_amount"
              inputMode="decimal"
              maxLength={12}
              className="font-mono"
              value={draft.text}
              onChange={(e) => setTyped({ ...draft, text: e.target.value })}
            />
          )}
        </Field>
      </div>
      {draft.text !== "" && (
        <Button kind="quiet" className="text-note" onClick={() => setTyped({ ...draft, text: "" })}>
          Nothing to note
        </Button>
      )}
    </div>
  );
  return {
    field,
    record: async (key: string) => {
      if (!asked || !amount) return;
      const body = { kind: draft.kind, amount, job_id: job.id };
      await ask(api.POST("/waste", { params: { header: { "Idempotency-Key": key } }, body }));
      setTyped({ ...draft, text: "" });
    },
  };
}

/** The new chain as part of the job: what its later steps do anyway is not asked. */
function NewChain({ job, fitted }: { job: Job; fitted: () => void }) {
  const bike = useQuery(bikeOptions(job.tag));
  const plan = useQuery(replacementOptions(job.tag));
  return (
    <div className="basis-full pb-2" data-testid="new-chain" data-goes-on tabIndex={-1}>
      <Fetched query={bike} what="the bike">
        {(b) => (
          <Fetched query={plan} what="what it needs">
            {(p) => <ReplaceForm bike={b} plan={p} inJob done={fitted} />}
          </Fetched>
        )}
      </Fetched>
    </div>
  );
}
