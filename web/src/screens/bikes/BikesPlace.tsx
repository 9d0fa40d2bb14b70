import { useInfiniteQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import type { BikeRow } from "../../api/client";
import { bikesOptions } from "../../api/queries";
import { Searched } from "../../ui/answer";
import { ButtonLink } from "../../ui/ButtonLink";
import { ago } from "../../ui/format";
import { useCommands } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Counted, ListHead, ShowMore, type Which } from "../../ui/ListHead";
import { Plate } from "../../ui/Plate";
import { Empty, Failure, Waiting } from "../../ui/parts";
import { useRemembered } from "../../ui/remember";
import { Tag } from "../../ui/Tag";
import { bikeKindWords, bikeName } from "../../words/bikes";
import { verdictWords, wearLine } from "../../words/wear";

/** Every customer bike, found by part of anything written on it. */
export function BikesPlace() {
  const [q, setQ] = useRemembered("bikes.q", "");
  const [which, setWhich] = useRemembered<Which>("bikes.which", "current");
  const bikes = useInfiniteQuery(bikesOptions(q, which === "archived"));
  const navigate = useNavigate();
  useCommands({ n: { words: "Add a bike", may: "addBike", run: () => navigate("/bikes/new") } });
  const rows = bikes.data?.pages.flatMap((p) => p.bikes) ?? [];

  return (
    <div className="mx-auto flex max-w-[1180px] flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Bikes</Heading>
      <ListHead
        find={{ words: "Tag, customer, make or frame number", label: "Find among the bikes", value: q, set: setQ }}
        which={{ current: "In care", value: which, set: setWhich }}
        add={{ words: "Add a bike", to: "/bikes/new", may: "addBike" }}
      />
      <section className="card card-border bg-base-100 overflow-hidden" aria-label="Bikes">
        {bikes.isPending && <Waiting what="the bikes" />}
        {bikes.isError && (
          <div className="p-3">
            <Failure error={bikes.error} again={() => bikes.refetch()} />
          </div>
        )}
        <Searched query={bikes} question={{ q: q.trim(), archived: which === "archived" }}>
          {(asked) =>
            bikes.isSuccess && rows.length === 0 ? (
              <NoBikes {...asked} />
            ) : (
              rows.length > 0 && (
                <>
                  <Counted total={bikes.data?.pages[0]?.total} one="bike" q={asked.q} />
                  <ul>
                    {rows.map((b) => (
                      <BikeLine key={b.tag} bike={b} />
                    ))}
                  </ul>
                  <ShowMore query={bikes} />
                </>
              )
            )
          }
        </Searched>
      </section>
    </div>
  );
}

function NoBikes({ q, archived }: { q: string; archived: boolean }) {
  if (q !== "")
    return (
      <Empty title="Nothing here fits.">
        <p>Part of a tag, a customer's name, a make or a frame number will do. Accents and capitals do not matter.</p>
      </Empty>
    );
  if (archived)
    return (
      <Empty title="No bike is archived.">
        <p>A bike that was sold or given up is archived on its own page; its record stays.</p>
      </Empty>
    );
  return (
    <Empty title="The bikes you care for will be here.">
      <p>Each gets a tag with a number. Scan it, or type it and Enter, and its page opens from anywhere.</p>
      <ButtonLink to="/bikes/new" may="addBike" kind="main">
        Add the first bike
      </ButtonLink>
    </Empty>
  );
}

/**
 * One bike in a list: how pressing its chain is, tag, owner, bike, and what was last read. Among one
 * owner's bikes the owner is left out.
 */
export function BikeLine({ bike, ofOwner = false }: { bike: BikeRow; ofOwner?: boolean }) {
  const [first, second] = ofOwner
    ? [bikeName(bike), [bike.kind && bikeKindWords[bike.kind], bike.archived && "archived"].filter(Boolean).join(", ")]
    : [bike.customer.name, bikeName(bike)];
  return (
    <li>
      <Link
        to={`/bikes/${bike.tag}`}
        className="min-h-(--target) border-t border-base-300 hover:bg-base-200 grid grid-cols-[auto_1fr] items-center gap-x-3 gap-y-0.5 px-4 py-2 sm:grid-cols-[44px_130px_minmax(0,1.2fr)_minmax(0,1fr)_minmax(0,190px)_100px]"
      >
        <span className="max-sm:row-span-2">{bike.chain ? <Plate state={bike.chain.state} /> : <NotRead />}</span>
        <span className="max-sm:hidden">
          <Tag tag={bike.tag} />
        </span>
        <span className="flex min-w-0 items-center gap-2 font-semibold">
          <span className="sm:hidden">
            <Tag tag={bike.tag} />
          </span>
          <span className="truncate">{first}</span>
        </span>
        <span className="truncate text-quiet max-sm:col-start-2">{second}</span>
        <span className="max-sm:hidden">
          {bike.chain ? (
            <>
              <span className="block truncate font-semibold">{verdictWords[bike.chain.verdict]}</span>
              <span className="block truncate font-mono text-fine text-quiet">{chainLine(bike.chain)}</span>
            </>
          ) : (
            <span className="text-quiet">not measured yet</span>
          )}
        </span>
        <span className="text-right text-fine text-quiet max-sm:hidden">{bike.chain && ago(bike.chain.taken_at)}</span>
      </Link>
    </li>
  );
}

function chainLine(c: NonNullable<BikeRow["chain"]>): string {
  if (c.elongation_pct !== undefined) return wearLine(c);
  return wearLine({ interval: { low_pct: c.low_pct ?? 0, high_pct: c.high_pct ?? null, edge_pct: 0 } });
}

/** The place of the state sign where nothing was read yet. */
function NotRead() {
  return (
    <svg width="40" height="22" viewBox="0 0 44 24" role="img" aria-label="not measured yet">
      <path d="M12 12h20" className="stroke-base-300" strokeWidth="3" strokeLinecap="round" strokeDasharray="1 7" />
    </svg>
  );
}
