import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useEffectEvent, useState } from "react";
import type { BikeRow } from "../api/client";
import { findOptions } from "../api/queries";
import { keptBikes } from "../outbox/keeping";
import { useReach } from "../outbox/reach";
import { bikeName } from "../words/bikes";
import { Searched } from "./answer";
import { Input } from "./controls";
import { Plate } from "./Plate";
import { Dialog, Failure } from "./parts";
import { Tag } from "./Tag";

/** The bikes kept on this device that a text fits. */
function keptThatFit(client: QueryClient, q: string): BikeRow[] {
  const text = q.trim().toLowerCase();
  return keptBikes(client)
    .map((b) => ({
      tag: b.tag,
      customer: b.customer,
      make: b.facts.make ?? "",
      model: b.facts.model ?? "",
      colour: b.facts.colour ?? "",
      kind: b.facts.kind ?? "",
      archived: b.archived,
    }))
    .filter((b) =>
      [b.tag, b.tag.replaceAll("-", ""), b.customer.name, b.make, b.model].some((t) => t.toLowerCase().includes(text)),
    )
    .slice(0, 7);
}

/** Finds a bike by part of its tag, owner, make or frame number, and opens or picks it. */
export function Find(props: { close: () => void; open: (tag: string) => void; title?: string }) {
  const [q, setQ] = useState("");
  const [at, setAt] = useState(0);
  const found = useQuery(findOptions(q));
  const client = useQueryClient();
  const away = !useReach().reached;
  const bikes = q.trim() === "" ? [] : away ? keptThatFit(client, q) : (found.data?.bikes ?? []);
  const chosen = bikes[Math.min(at, bikes.length - 1)];

  // Whoever types fast presses Enter before the answer is here: it is meant for the answer.
  const [entered, setEntered] = useState(false);
  const opens = useEffectEvent(props.open);
  const answered = away || (!found.isPending && !found.isPlaceholderData);
  const tag = entered && answered ? chosen?.tag : undefined;
  useEffect(() => {
    if (tag !== undefined) opens(tag);
  }, [tag]);

  const onKey = (e: React.KeyboardEvent) => {
    if (e.key === "ArrowDown") setAt(Math.min(at + 1, bikes.length - 1));
    else if (e.key === "ArrowUp") setAt(Math.max(at - 1, 0));
    else if (e.key === "Enter") setEntered(true);
    else return;
    e.preventDefault();
  };

  return (
    <Dialog title={props.title ?? "Find a bike"} close={props.close}>
      <Input
        autoFocus
        className="text-lg"
        placeholder="Tag, customer, make or frame number"
        aria-label="Tag, customer, make or frame number"
        value={q}
        maxLength={100}
        onChange={(e) => {
          setQ(e.target.value);
          setAt(0);
          setEntered(false);
        }}
        onKeyDown={onKey}
      />
      {away && <p className="text-note text-quiet">Without a connection only the bikes of open jobs are found.</p>}
      {found.isError && !away && <Failure error={found.error} again={() => found.refetch()} />}
      <Searched query={away ? { isPlaceholderData: false } : found} question={{ q: q.trim() }}>
        {(asked) => (
          <>
            <ul className="-mx-2 max-h-[50vh] overflow-auto" aria-label="Found">
              {bikes.map((b) => (
                <li key={b.tag}>
                  <button
                    type="button"
                    onClick={() => props.open(b.tag)}
                    className={`flex min-h-(--target) w-full items-center gap-3 rounded-field px-2 py-1 text-left ${b === chosen ? "bg-base-200" : "hover:bg-base-200"}`}
                  >
                    <Tag tag={b.tag} />
                    <span className="min-w-0 grow">
                      <span className="block truncate font-semibold">{b.customer.name}</span>
                      <span className="block truncate text-fine text-quiet">{bikeName(b)}</span>
                    </span>
                    {b.chain && <Plate state={b.chain.state} size={18} />}
                  </button>
                </li>
              ))}
            </ul>
            {asked.q !== "" && (away ? bikes : found.data?.bikes)?.length === 0 && (
              <p>Nothing here fits. Part of a tag, a customer's name, a make or a frame number will do.</p>
            )}
            {found.data && found.data.total > bikes.length && bikes.length > 0 && (
              <p className="text-fine text-quiet">
                {bikes.length} of {found.data.total > 200 ? "more than 200" : found.data.total}. Type more to narrow it
                down.
              </p>
            )}
          </>
        )}
      </Searched>
    </Dialog>
  );
}
