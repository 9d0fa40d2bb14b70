import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import type { Bike, BikeCosts } from "../../api/client";
import { bikeOptions, costsOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Key } from "../../ui/controls";
import { type Distance, useDistance } from "../../ui/distance";
import { Fetched } from "../../ui/Fetched";
import { about, percent } from "../../ui/format";
import { useCommands } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Icon } from "../../ui/icons";
import { money, roughMoney } from "../../ui/money";
import { Tag } from "../../ui/Tag";
import { bikeName } from "../../words/bikes";
import { trackMissing } from "../../words/wear";

/** What replacing the chain early or late costs on one bike, to be shown to its owner or printed. */
export function CostPage() {
  const { tag = "" } = useParams();
  const bike = useQuery(bikeOptions(tag));
  const costs = useQuery(costsOptions(tag));
  useCommands({ p: { words: "Print this page", run: () => window.print() } });
  return (
    <Fetched query={bike} what={`the bike of tag ${tag}`}>
      {(b) => (
        <div className="mx-auto flex max-w-5xl flex-col gap-3 p-3 sm:p-4">
          <Head bike={b} printable={(costs.data?.strategies.length ?? 0) > 0} />
          <Fetched query={costs} what="the costs">
            {(c) => (c.missing.length > 0 ? <Missing bike={b} costs={c} /> : <Strategies costs={c} />)}
          </Fetched>
        </div>
      )}
    </Fetched>
  );
}

function Head({ bike, printable }: { bike: Bike; printable: boolean }) {
  return (
    <header className="flex flex-wrap items-center gap-x-4 gap-y-2">
      <ButtonLink to={`/bikes/${bike.tag}`} aria-label="Back to the bike" className="no-print px-2">
        <Icon name="back" />
      </ButtonLink>
      <Tag tag={bike.tag} size="middle" />
      <div className="min-w-0 grow basis-52">
        <Heading className="text-xl">What a chain costs on this bike</Heading>
        <p className="truncate text-quiet">
          {bike.customer.name} · {bikeName(bike.facts)}
        </p>
      </div>
      {printable && (
        <Button className="no-print max-sm:w-full" onClick={() => window.print()}>
          Print <Key>P</Key>
        </Button>
      )}
    </header>
  );
}

function Missing({ bike, costs }: { bike: Bike; costs: BikeCosts }) {
  const facts = costs.missing.filter((m) => m !== "prices");
  return (
    <section className="card card-border bg-base-100 flex flex-col items-start gap-3 p-4">
      <h2 className="text-lg">The costs are not known yet.</h2>
      <ul>
        {facts.map((m) => (
          <li key={m}>{trackMissing[m as keyof typeof trackMissing]}</li>
        ))}
        {costs.missing.includes("prices") && (
          <li>The shop's prices for this kind of drivetrain are not entered yet.</li>
        )}
      </ul>
      <div className="flex flex-wrap gap-3">
        {facts.length > 0 && <ButtonLink to={`/bikes/${bike.tag}`}>To the bike</ButtonLink>}
        {costs.missing.includes("prices") && (
          <ButtonLink to="/settings/prices" kind="main">
            Enter prices
          </ButtonLink>
        )}
      </div>
    </section>
  );
}

type Strategy = BikeCosts["strategies"][number];

function Strategies({ costs: c }: { costs: BikeCosts }) {
  const d = useDistance();
  // Amounts are by 1000 km; by 1000 of the shop's unit they are as many times more as it is longer.
  const per = 1 / d.of(1);
  const most = Math.max(...c.strategies.map((s) => s.per_1000_km.high));
  return (
    <>
      <section className="card card-border bg-base-100 p-4">
        <p className="max-w-prose">
          A worn chain wears the cassette it runs on. Changed early, several chains share one cassette; changed late,
          the chain lasts longer but the cassette goes with it.{" "}
          {c.readings === 0
            ? "Nothing was measured on this chain yet: these are guesses from how the bike is kept."
            : c.readings === 1
              ? "Worked out from one reading of this chain and how the bike is ridden."
              : `Worked out from ${c.readings} readings of this chain and how the bike is ridden.`}
        </p>
      </section>
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3 md:auto-cols-fr md:grid-flow-col">
        {c.strategies.map((s) => (
          <StrategyPanel key={s.limit_pct} s={s} c={c} d={d} per={per} most={most} />
        ))}
      </div>
      {c.run_out_refused && (
        <p className="card card-border bg-base-100 border-l-4 border-l-rust px-4 py-2">
          Running the chain to its end is not offered here: a chain that breaks under cargo, children or a mid motor
          throws the rider.
        </p>
      )}
      <p className="text-fine text-quiet">
        Parts and work in this shop today: chain {money(c.prices?.chain ?? 0, c.currency)} +{" "}
        {money(c.prices?.labour_chain ?? 0, c.currency)}, cassette {money(c.prices?.sprockets ?? 0, c.currency)} +{" "}
        {money(c.prices?.labour_sprockets ?? 0, c.currency)}, chainrings {money(c.prices?.rings ?? 0, c.currency)} +{" "}
        {money(c.prices?.labour_rings ?? 0, c.currency)}. The range is from a chain that lasts long to one that does
        not: one in ten does better, one in ten worse. Chainrings are assumed to last three cassettes.
      </p>
    </>
  );
}

const titleOf = (s: Strategy) =>
  s.run_out ? "Run it to its end" : `Change at ${percent(s.limit_pct).replace(/0$/, "")} %`;

function StrategyPanel(props: { s: Strategy; c: BikeCosts; d: Distance; per: number; most: number }) {
  const { s, c, d, per, most } = props;
  const cost = (minor: number) => roughMoney(minor * per, c.currency, s.per_1000_km.mid * per);
  const chains = Number(s.chains_per_sprocket_set.toFixed(1));
  return (
    <section
      className={`card card-border bg-base-100 flex flex-col gap-3 p-4 ${s.cheapest ? "outline-2 -outline-offset-2 outline-base-content" : ""}`}
      aria-label={titleOf(s)}
    >
      <div>
        <h2 className="text-lg">{titleOf(s)}</h2>
        <p className="min-h-[21px] text-note text-quiet">
          {[s.cheapest && "least money", s.in_force && "what this bike is held to"].filter(Boolean).join(" · ")}
        </p>
      </div>
      <div>
        <div className="font-mono text-figure leading-tight font-semibold whitespace-nowrap">
          {cost(s.per_1000_km.mid)}
        </div>
        <p className="text-note">
          per 1000 {d.unit}, from <b className="font-mono">{cost(s.per_1000_km.low)}</b> to{" "}
          <b className="font-mono">{cost(s.per_1000_km.high)}</b>
        </p>
      </div>
      <CostBar s={s} most={most} />
      <dl className="text-note">
        {(
          [
            ["chain", s.chain_share, "bg-primary"],
            ["cassette", s.sprockets_share, "bg-steel-dark"],
            ["chainrings", s.rings_share, "bg-accent"],
          ] as const
        ).map(([words, share, colour]) => (
          <div key={words} className="flex items-center justify-between gap-3 border-t border-base-300 py-1">
            <dt className="flex items-center gap-2">
              <span className={`size-3 ${colour}`} aria-hidden />
              {words}
            </dt>
            <dd className="font-mono">{cost(share)}</dd>
          </div>
        ))}
      </dl>
      <p className="text-note">
        A chain lasts about {about(d.of(s.life_km.p50))} {d.unit}, between {about(d.of(s.life_km.p10))} and{" "}
        {about(d.of(s.life_km.p90))}.{" "}
        {chains === 1 ? "Each chain takes its cassette with it." : `One cassette lasts ${chains} chains.`}
        {s.per_year && ` About ${roughMoney(s.per_year.mid, c.currency)} a year.`}
      </p>
    </section>
  );
}

/** What the middle is made of, and how far the range reaches, on one scale for all strategies. */
function CostBar({ s, most }: { s: Strategy; most: number }) {
  const at = (minor: number) => `${(100 * minor) / most}%`;
  return (
    <div className="relative h-8" aria-hidden>
      <div className="absolute inset-y-1.5 left-0 flex" style={{ width: at(s.per_1000_km.mid) }}>
        <span className="bg-primary" style={{ flexGrow: s.chain_share }} />
        <span className="bg-steel-dark" style={{ flexGrow: s.sprockets_share }} />
        <span className="bg-accent" style={{ flexGrow: s.rings_share }} />
      </div>
      <div
        className="absolute top-1/2 border-t-2 border-base-content"
        style={{ left: at(s.per_1000_km.low), width: at(s.per_1000_km.high - s.per_1000_km.low) }}
      />
      {[s.per_1000_km.low, s.per_1000_km.high].map((end) => (
        <div key={end} className="absolute inset-y-1.5 -ml-px w-0.5 bg-base-content" style={{ left: at(end) }} />
      ))}
    </div>
  );
}
