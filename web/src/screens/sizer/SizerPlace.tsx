import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { bikeOptions, sizerQuestion } from "../../api/queries";
import { Asked, useAnswer } from "../../ui/answer";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button } from "../../ui/controls";
import { Find } from "../../ui/Find";
import { useCommands } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { useKept } from "../../ui/kept";
import { Failure, Waiting } from "../../ui/parts";
import { Tag } from "../../ui/Tag";
import { inShopUnits } from "../../ui/units";
import { Answer, Middle } from "./Answer";
import { type Draft, emptyDraft, fromBike, isDraft, type Lengths, lengthsOf, toQuestion } from "./draft";
import { SaveBack, Typed } from "./Typed";

/** How long a chain must be: the drivetrain on the left, the gear in the middle, the answer on the right. */
export function SizerPlace() {
  const [params] = useSearchParams();
  const tag = params.get("tag");
  const bike = useQuery({ ...bikeOptions(tag ?? ""), enabled: tag !== null });
  if (tag !== null && bike.isPending) return <Waiting what={`the bike of tag ${tag}`} />;
  if (tag !== null && bike.data === undefined)
    return (
      <div className="p-4">
        <div className="card card-border bg-base-100 flex flex-col gap-3 p-4">
          <Failure error={bike.error} again={() => bike.refetch()} />
          <ButtonLink to="/chain-length" className="self-start">
            Size without a bike
          </ButtonLink>
        </div>
      </div>
    );
  return (
    <Sizer
      key={tag ?? ""}
      start={bike.data ? fromBike(bike.data.tag, bike.data.facts) : null}
      was={lengthsOf(bike.data?.facts)}
    />
  );
}

function Sizer({ start, was }: { start: Draft | null; was: Lengths }) {
  const navigate = useNavigate();
  const [kept, setDraft] = useKept<Draft>("pony.sizer", emptyDraft, isDraft);
  // A bike that is opened in the sizer takes the place of what stood there.
  const draft = start && kept.tag !== start.tag ? start : kept;
  const set = (part: Partial<Draft>) => setDraft({ ...draft, ...part });
  const [tried, setTried] = useState<number | null>(null);
  const [drawn, setDrawn] = useState<{ ring: number; sprocket: number } | null>(null);
  const [choosing, setChoosing] = useState(false);
  const read = toQuestion(draft, start && draft.tag === start.tag ? was : {});
  const answer = useAnswer(
    sizerQuestion({
      ...read.question,
      ...(tried === null ? {} : { try_links: tried }),
      ...(drawn ? { draw: drawn } : {}),
    }),
  );
  const fault = (path: string) => {
    const said = answer.answer?.faults.find((f) => f.path === path)?.message;
    return read.faults[path] ?? (said && inShopUnits(said));
  };
  useCommands({ n: { words: "Size for another bike", run: () => setChoosing(true) } });
  const geared = draft.kind === "derailleur";

  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-3 p-3 min-[700px]:grid-cols-[240px_minmax(0,1fr)] min-[1100px]:grid-cols-[240px_minmax(0,1fr)_330px]">
      <Heading unseen>Chain length{draft.tag ? ` of ${draft.tag}` : ""}</Heading>
      <section className="card card-border bg-base-100 flex flex-col gap-2 self-start p-3" aria-label="This drivetrain">
        <div className="flex items-center justify-between gap-2">
          {draft.tag ? (
            <Link
              to={`/bikes/${draft.tag}`}
              aria-label={`Open the bike of tag ${draft.tag}`}
              className="flex min-h-(--target) items-center"
            >
              <Tag tag={draft.tag} />
            </Link>
          ) : (
            <span className="text-quiet">Typed, no bike</span>
          )}
          <Button kind="quiet" className="px-1 text-note" onClick={() => setChoosing(true)}>
            {draft.tag ? "Other bike" : "From a bike"}
          </Button>
        </div>
        <Typed draft={draft} set={set} fault={fault} geared={geared} />
        <SaveBack draft={draft} />
        <Button
          kind="quiet"
          className="-ml-4 self-start text-note"
          onClick={() => {
            setDraft(emptyDraft);
            setTried(null);
            setDrawn(null);
            navigate("/chain-length");
          }}
        >
          Clear
        </Button>
      </section>
      <section
        className="card card-border bg-base-100 flex min-w-0 flex-col gap-3 p-4 max-[1099px]:order-last min-[700px]:max-[1099px]:col-span-2"
        aria-label="The gear"
      >
        <Asked of={answer} className="flex min-w-0 flex-col gap-3">
          {(a) => (
            <Middle
              a={a}
              drawn={drawn}
              draw={setDrawn}
              tried={tried}
              attempt={setTried}
              geared={geared}
              draft={draft}
            />
          )}
        </Asked>
      </section>
      <section
        className="card card-border bg-base-100 flex min-w-0 flex-col gap-3 self-start p-4"
        aria-label="The length"
        aria-live="polite"
      >
        {!answer.error && (
          <Asked of={answer} className="flex min-w-0 flex-col gap-3">
            {(a) => <Answer a={a} draft={draft} />}
          </Asked>
        )}
      </section>
      {choosing && (
        <Find
          title="Size a chain for which bike?"
          close={() => setChoosing(false)}
          open={(t) => {
            setChoosing(false);
            setTried(null);
            setDrawn(null);
            navigate(`/chain-length?tag=${t}`);
          }}
        />
      )}
    </div>
  );
}
