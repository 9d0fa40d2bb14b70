import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, ask, type Bike, type NewLink, type WearTrack } from "../../api/client";
import { stockOptions, wearTrackOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Input } from "../../ui/controls";
import { useDistance } from "../../ui/distance";
import { shortDay, whole } from "../../ui/format";
import { Dialog, Failure, Field } from "../../ui/parts";
import { faultAt, useWrite } from "../../ui/sending";
import { WearDistance } from "../../ui/WearDistance";
import { jointWords, partWords, spentWords } from "../../words/fitting";
import { LinkChoice, type LinkDraft, linkOf, noLink } from "./LinkChoice";

/** What is fitted to a bike: chains, the joining link, sprockets, rings and pulleys, each with its own distance. */
export function Parts({ bike }: { bike: Bike }) {
  const track = useQuery(wearTrackOptions(bike.tag));
  const [opening, setOpening] = useState(false);
  if (!track.data) return null; // the track beside it says why
  const { parts, chains } = track.data;
  return (
    <section className="card card-border bg-base-100 p-4" aria-label="Parts">
      <h2 className="text-fine font-semibold text-quiet mb-1">Parts fitted</h2>
      {parts.chains.length === 0 && <p className="text-quiet">No chain is on record as fitted yet.</p>}
      <ul>
        {parts.chains.toReversed().map((c) => (
          <Part
            key={c.part_id}
            name={c.state === "on" ? "Chain now on" : c.state === "kept" ? "Chain kept" : "Chain before"}
            strong={c.state === "on"}
            what={[
              c.what,
              c.links ? `${c.links} links` : "",
              c.joint && c.joint !== "joining-link" ? jointWords[c.joint] : "",
            ]
              .filter(Boolean)
              .join(", ")}
            hardKM={c.hard_km}
          >
            {c.direction && <>marked: {c.direction}; </>}
            {shortDay(c.fitted_at)}, {chains.find((s) => s.part_id === c.part_id)?.fitted_by}
            <FittedAt spans={chains} part={c.part_id} />
            {c.times > 1 && `, on ${c.times} times`}
          </Part>
        ))}
        {parts.joining_link && (
          <li className="border-t border-base-300 py-1.5">
            Joining link{parts.joining_link.what && `, ${parts.joining_link.what}`}
            <span className="block text-fine text-quiet">
              {parts.joining_link.openings === 0
                ? "not opened yet"
                : `opened ${parts.joining_link.openings === 1 ? "once" : `${parts.joining_link.openings} times`}`}
              {parts.joining_link.stated_uses &&
                `, its maker states ${parts.joining_link.stated_uses === 1 ? "one use" : `${parts.joining_link.stated_uses} uses`}`}
              {parts.joining_link.spent && `; ${spentWords[parts.joining_link.spent]}`}
            </span>
          </li>
        )}
        {parts.sets.map((s) => (
          <Part key={s.part_id} name={partWords[s.part] ?? s.part} strong what={s.what ?? ""} hardKM={s.hard_km}>
            {s.since_care ? "since it came into care" : shortDay(s.fitted_at)},{" "}
            {s.chains === 1 ? "one chain" : `${s.chains} chains`} so far
          </Part>
        ))}
      </ul>
      {!bike.archived && (
        <div className="mt-2 flex flex-wrap gap-2">
          <ButtonLink to={`/bikes/${bike.tag}/replace`}>Replace the chain</ButtonLink>
          {parts.chains.length > 0 && (
            <Button kind="quiet" className="px-2 text-note" onClick={() => setOpening(true)}>
              Chain was opened
            </Button>
          )}
        </div>
      )}
      {opening && <Opened bike={bike} track={track.data} close={() => setOpening(false)} />}
    </section>
  );
}

function Part(props: { name: string; strong: boolean; what: string; hardKM: number; children: React.ReactNode }) {
  const d = useDistance();
  return (
    <li className="flex justify-between gap-4 border-t border-base-300 py-1.5">
      <span className="min-w-0">
        <span className={props.strong ? "font-semibold" : ""}>{props.name}</span>
        {props.what && <span className="break-words">, {props.what}</span>}
        <span className="block text-fine text-quiet">{props.children}</span>
      </span>
      <span className="shrink-0 text-right">
        <span className="font-mono">{whole(d.of(props.hardKM))}</span>
        <span className="block text-fine text-quiet">
          <WearDistance />
        </span>
      </span>
    </li>
  );
}

function FittedAt({ spans, part }: { spans: WearTrack["chains"]; part: string }) {
  const d = useDistance();
  const at = spans.find((s) => s.part_id === part)?.odometer_km;
  if (at === undefined) return null;
  return (
    <>
      {" "}
      at <span className="font-mono">{whole(d.of(at))}</span> {d.unit}
    </>
  );
}

/** Counts an opening of the chain, and what closed it again. */
function Opened({ bike, track, close }: { bike: Bike; track: WearTrack; close: () => void }) {
  const stock = useQuery(stockOptions(false));
  const on = track.parts.chains.find((c) => c.state === "on");
  const [why, setWhy] = useState("");
  const [link, setLink] = useState<LinkDraft>({ ...noLink, from: track.parts.joining_link?.spent ? "shelf" : "old" });
  const send = useWrite(
    (body: { why?: string; joining_link?: NewLink }, key) =>
      ask(
        api.POST("/bikes/{tag}/chain/opened", {
          params: { path: { tag: bike.tag }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    [{ topic: "bike", tag: bike.tag }],
  );
  const width = on?.sprockets ?? bike.facts.sprocket_count;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const l = linkOf(link);
    send.mutate(
      { ...(why.trim() ? { why: why.trim() } : {}), ...(l ? { joining_link: l } : {}) },
      {
        done: close,
      },
    );
  };
  return (
    <Dialog title="The chain was opened" close={close}>
      <form className="flex flex-col gap-3" onSubmit={submit}>
        <Field label="What for">
          {(a) => <Input {...a} name="why" maxLength={200} value={why} onChange={(e) => setWhy(e.target.value)} />}
        </Field>
        <LinkChoice
          draft={link}
          set={setLink}
          old={track.parts.joining_link}
          links={(stock.data ?? []).filter((i) => i.kind === "joining-link" && (!width || i.facts.sprockets === width))}
          box={false}
          pin
          error={send.error}
        />
        {send.isError && !anyFault(send.error) && <Failure error={send.error} />}
        <p className="border-l-4 border-rust pl-3 text-note">
          Seat it, and load-test it on the top run with the brake held: a chain that opens throws the rider.
        </p>
        <div className="flex flex-wrap gap-3">
          <Button type="submit" kind="main" disabled={send.isPending}>
            Note it
          </Button>
          <Button kind="quiet" onClick={close}>
            Cancel
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

const anyFault = (error: unknown) =>
  ["joining_link", "joining_link.reuse", "joining_link.sprockets", "joining_link.stock_item_id"].some((p) =>
    faultAt(error, p),
  );
