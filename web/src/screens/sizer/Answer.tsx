import type { SizerAnswer } from "../../api/client";
import { CutDrawing, GearDrawing } from "../../draw/GearDrawing";
import { ButtonLink } from "../../ui/ButtonLink";
import { Table } from "../../ui/controls";
import { digits, percent } from "../../ui/format";
import { Heading } from "../../ui/Heading";
import { Empty } from "../../ui/parts";
import { amount, fine, range } from "../../ui/units";
import { lengthWarnings, methodWhy, methodWords } from "../../words/length";
import { type Draft, slackGears } from "./draft";
import { GearMap, LengthBar } from "./Lengths";

type MiddleProps = {
  a: SizerAnswer | undefined;
  drawn: { ring: number; sprocket: number } | null;
  draw: (g: { ring: number; sprocket: number }) => void;
  tried: number | null;
  attempt: (n: number | null) => void;
  geared: boolean;
  draft: Draft;
};

export function Middle({ a, draw, tried, attempt, geared, draft }: MiddleProps) {
  if (!a?.length)
    return (
      <Empty title="The gear will be drawn here, to scale.">
        <p>Say what gears it has, the teeth, and how long the chainstay is, from bottom bracket to rear axle.</p>
      </Empty>
    );
  if (!geared) return <OneGear a={a} draft={draft} />;
  const path = a.gear?.path;
  if (!a.gear || !path)
    return (
      <Empty title="How long the cage is, is not known.">
        <p>With it every gear is drawn, and the lengths between too tight and too slack.</p>
      </Empty>
    );
  const here = a.gear.gears.find((g) => g.ring === path.ring && g.sprocket === path.sprocket);
  const say =
    here?.state === "tight"
      ? `${amount("length", Math.ceil(here.over_mm * 10) / 10)} too short: do not shift into it`
      : here?.state === "slack"
        ? `hangs ${amount("length", Math.round(here.over_mm))} slack`
        : `cage ${String(Math.round(path.cage_deg)).replace("-", "−")}° of −70 to 85`;
  return (
    <>
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <p className="text-fine font-semibold text-quiet">
          {a.drawn} links, to scale{tried !== null && tried !== a.length.keep_links ? ", tried" : ""}
        </p>
        <p className={`font-mono text-note ${here?.state === "ok" ? "text-quiet" : "font-semibold text-error"}`}>
          {path.ring} × {path.sprocket} · {say}
        </p>
      </div>
      <GearDrawing path={path} state={here?.state} />
      <GearMap gears={a.gear.gears} at={path} draw={draw} />
      <LengthBar a={a} attempt={attempt} />
    </>
  );
}

/** One gear without a derailleur: where the axle may sit, or which pairs need no tensioner. */
function OneGear({ a, draft }: { a: SizerAnswer; draft: Draft }) {
  if (a.slots)
    return (
      <>
        <h2 className="text-lg">Chain lengths that the slots allow</h2>
        {a.slots.options.length === 0 && (
          <p>None: no chain that can be closed lies between the two ends. Other teeth, or a half-link, move it.</p>
        )}
        <ul>
          {a.slots.options.map((o) => (
            <li key={o.links} className="border-t border-base-300 py-2">
              <b className="font-mono text-xl">{o.links} links</b>
              {o.links === a.slots?.recommended_links && (
                <span className="text-quiet"> · most room behind the axle</span>
              )}
              {o.warnings.length > 0 && (
                <p className="border-l-4 border-error pl-3 text-note font-semibold">
                  No room to lift the chain off: the wheel comes out only after the axle went {amount("length", 8)}{" "}
                  forward.
                </p>
              )}
              <p className="text-note">
                Axle at <span className="font-mono">{fine(o.chainstay_mm, 1)}</span>; worn to{" "}
                {percent(a.limit_pct ?? 0)} % it goes back by <span className="font-mono">{fine(o.growth_mm, 1)}</span>
                {o.reaches_limit ? ", which the slots allow." : ": the slots end before that."}
              </p>
            </li>
          ))}
        </ul>
        <p className="text-note text-quiet">
          Tension: {range("length", 8, 12)} up and down at mid-run, at the tightest point of the turn.
        </p>
      </>
    );
  const pairs = a.pairs?.pairs ?? [];
  return (
    <>
      <h2 className="text-lg">
        The axle does not move: {a.tensioner ? "a tensioner," : ""} an eccentric or a sliding axle is the normal answer
      </h2>
      {!a.tensioner && (
        <p className="border-l-4 border-error pl-3 font-semibold">
          No tensioner {draft.fixed ? "on a fixed gear" : draft.coaster ? "with a coaster brake" : "here"}: the rider
          pushes back against it and tears it off.
        </p>
      )}
      <p>
        Without that only a pair of wheels will do on which a new chain fits within {fine(0.3)}. It holds for a few
        hundredths of a percent of wear; then the chain has more than {amount("length", a.bound_mm ?? 0)} of play.
      </p>
      {pairs.length === 0 && (
        <p className="font-semibold">No chainring and sprocket within three teeth of these fit so.</p>
      )}
      {pairs.length > 0 && (
        <div className="overflow-x-auto">
          <Table className="font-mono text-note">
            <thead className="text-left font-sans text-fine text-quiet">
              <tr>
                <th className="pr-3 font-semibold">Chainring × sprocket</th>
                <th className="pr-3 font-semibold">Links</th>
                <th className="pr-3 font-semibold">Ratio</th>
                <th className="pr-3 font-semibold">Play, new</th>
                <th className="font-semibold">Too loose at</th>
              </tr>
            </thead>
            <tbody>
              {pairs.map((p) => (
                <tr key={`${p.ring}x${p.sprocket}`} className="border-t border-base-300">
                  <td className="py-1 pr-3">
                    {p.ring} × {p.sprocket}
                  </td>
                  <td className="pr-3">{p.links}</td>
                  <td className="pr-3 whitespace-nowrap">
                    {digits(p.ratio, 2)} ({p.ratio_change_pct >= 0 ? "+" : "−"}
                    {digits(Math.abs(p.ratio_change_pct), 1)} %)
                  </td>
                  <td className="pr-3 whitespace-nowrap">{amount("length", p.play_new_mm, 0)}</td>
                  <td className="whitespace-nowrap">{digits(p.wear_at_bound_pct, 3)} %</td>
                </tr>
              ))}
            </tbody>
          </Table>
        </div>
      )}
      <p className="border-l-4 border-rust pl-3 text-note">
        On a fixed gear a chain that comes off throws the rider: past its bound it is not ridden.
        {draft.coaster && " With a coaster brake it takes the brake with it."}
      </p>
    </>
  );
}

/** What would do where no length of chain does. */
function wouldFit(w: { keep_off?: number[][]; cage_mm?: number | null }): string {
  const off = (w.keep_off ?? []).map(([ring, sprocket]) => `${ring} × ${sprocket}`);
  const cage = w.cage_mm ? ` A cage of ${amount("length", w.cage_mm)} would do.` : " No usual cage would do.";
  return `${off.length > 0 ? ` Keep off ${off.slice(0, 6).join(", ")}${off.length > 6 ? " …" : ""}.` : ""}${cage}`;
}

const missingWords: Record<SizerAnswer["missing"][number], string> = {
  kind: "what gears it has",
  rings: "the chainring teeth",
  sprockets: "the sprocket teeth",
  chainstay: "the length of the chainstay",
};

/** The answer: how many to keep, what comes off the box and where to cut, every method, and why. */
export function Answer({ a, draft }: { a: SizerAnswer | undefined; draft: Draft }) {
  const l = a?.length;
  if (!a || !l)
    return (
      <p className="text-lg">
        {a && a.missing.length > 0 ? `Say ${a.missing.map((m) => missingWords[m]).join(", ")}.` : "No length yet."}
        {a && a.faults.length > 0 && (
          <span className="block text-note text-error">Something typed is not right: see its field.</span>
        )}
      </p>
    );
  const box = Number(draft.box_links);
  const slack = slackGears(a);
  return (
    <>
      <div>
        <Heading className="text-reading leading-tight font-bold" data-testid="keep">
          Keep {l.keep_links}
        </Heading>
        {l.remove_links !== null && l.short_by_links === 0 && (
          <p className="text-lg font-semibold">
            {l.remove_links === 0 ? "The whole box" : `Take off ${l.remove_links} of ${box}`}
          </p>
        )}
        {l.short_by_links > 0 && (
          <p className="text-lg font-semibold text-error">
            The box is {l.short_by_links} short: buy one of {l.keep_links} or more
          </p>
        )}
      </div>
      {a.cut && l.short_by_links === 0 && (
        <div>
          <CutDrawing after={a.cut.links} lastInner={a.cut.last_inner} />
          <p className="text-note text-quiet">
            Begin at an inner link, count {a.cut.links} and press out the pin after them.{" "}
            {a.cut.last_inner
              ? "Both ends are inner links then, as a joining link wants them."
              : "One end is an inner link then and the other an outer one, as a pin wants them."}
          </p>
        </div>
      )}
      {l.warnings.map((w) => (
        <p key={w.code} className="border-l-4 border-error pl-3 text-note font-semibold">
          {lengthWarnings[w.code]}
          {w.code === "no-length-fits" && wouldFit(w)}
          {w.code === "tight-big-to-big" && a.two_more && ` Two links more, ${l.keep_links + 2}, free it.`}
        </p>
      ))}
      {a.overlap === 4 && l.method === "wrap" && Number(draft.growth_mm.replace(",", ".")) > 0 && (
        <p className="border-l-4 border-warning pl-3 text-note">
          With rear suspension measured at its longest, makers often want an overlap of 2: {l.keep_links - 2}. Type it
          under Overlap to see.
        </p>
      )}
      {a.fewer && (
        <section>
          <h2 className="text-fine font-semibold text-quiet">Why not fewer</h2>
          <p className="text-note">{whyNotFewer(a)}</p>
        </section>
      )}
      {a.drawn === l.keep_links && slack.length > 0 && (
        <p className="border-l-4 border-warning pl-3 text-note">
          By the drawing it hangs slack in {slack.map((g) => `${g.ring} × ${g.sprocket}`).join(", ")}: keep off them, or
          see by hand whether two links fewer still reach largest to largest.
        </p>
      )}
      <section>
        <h2 className="text-fine font-semibold text-quiet mb-0.5">Every method</h2>
        <ul>
          {l.methods.map((m) => (
            <li key={m.method} className="border-t border-base-300 py-1">
              <span className={`flex justify-between gap-3 ${m.method === l.method ? "font-bold" : ""}`}>
                <span>
                  {methodWords[m.method]}
                  {m.method === "wrap" && `, + ${a.overlap}`}
                </span>
                <span className="font-mono">
                  {m.links}
                  {m.links !== l.keep_links && (
                    <span className="font-normal text-quiet">
                      {" "}
                      ({m.links > l.keep_links ? "+" : "−"}
                      {Math.abs(m.links - l.keep_links)})
                    </span>
                  )}
                </span>
              </span>
              <span className="block text-fine leading-snug text-quiet">{methodWhy[m.method]}</span>
            </li>
          ))}
          <li className="flex justify-between gap-3 border-t border-base-300 py-1 text-note">
            <span>Big-to-big wrap, before overlap</span>
            <span className="font-mono">{digits(l.geometry_links, 1)}</span>
          </li>
          {l.capacity_needed > 0 && (
            <li className="flex justify-between gap-3 border-t border-base-300 py-1 text-note">
              <span>Capacity the cage needs</span>
              <span className="font-mono">{l.capacity_needed} teeth</span>
            </li>
          )}
        </ul>
      </section>
      <p className="text-fine text-quiet">
        The maker's figure, where there is one, comes first. The drawing is an estimate, good to a pair of links: wrap
        the chain round by hand before you cut.
      </p>
      {draft.tag && (
        <ButtonLink to={`/bikes/${draft.tag}/replace`} kind="main">
          Fit this chain
        </ButtonLink>
      )}
    </>
  );
}

function whyNotFewer(a: SizerAnswer): string {
  const keep = a.length?.keep_links ?? 0;
  const f = a.fewer;
  if (f?.state === "tight")
    return `At ${keep - 2} the largest pair is ${amount("length", Math.ceil(f.over_mm * 10) / 10)} short with the cage fully pulled: shifting into it tears the derailleur off.`;
  const m = a.more;
  const more =
    m?.state === "slack"
      ? ` At ${keep + 2} the smallest pair hangs ${amount("length", Math.round(m.over_mm))} slack.`
      : "";
  return `At ${keep - 2} the largest pair would still go, with the cage at ${Math.round(f?.cage_deg ?? 0)}°; the method leaves room for the chain on a shift.${more}`;
}
