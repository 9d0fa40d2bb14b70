import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { BenchAnswer } from "../../api/client";
import { bikeOptions } from "../../api/queries";
import { ChanceBar } from "../../draw/ChanceBar";
import { Button, Checkbox, Select } from "../../ui/controls";
import { percent } from "../../ui/format";
import { Failure } from "../../ui/parts";
import { Tag } from "../../ui/Tag";
import { bikeName, drivetrainLine, drivetrainWords, motorWords } from "../../words/bikes";
import { biasWords, reasonWords, schoolWords, verdictSentence, verdictWords, whatNow } from "../../words/wear";
import type { Action, Bench } from "./state";

/** Whose chain lies on the bench. */
export function BikeOnBench({ bench, act, choose }: { bench: Bench; act: (a: Action) => void; choose: () => void }) {
  const bike = useQuery({ ...bikeOptions(bench.tag ?? ""), enabled: bench.tag !== null });
  if (bench.tag === null)
    return (
      <div className="flex flex-wrap items-center justify-between gap-2">
        <span className="text-quiet">Walk-in: no bike chosen</span>
        <Button onClick={choose}>Put on a bike</Button>
      </div>
    );
  return (
    <div className="flex flex-col gap-1">
      <div className="flex items-center gap-2">
        <Link
          to={`/bikes/${bench.tag}`}
          aria-label={`Open the bike of tag ${bench.tag}`}
          className="flex min-h-(--target) items-center"
        >
          <Tag tag={bike.data?.tag ?? bench.tag} />
        </Link>
        <span className="grow" />
        <Button kind="quiet" className="px-1.5 text-note whitespace-nowrap" onClick={choose}>
          Other bike
        </Button>
        <Button
          kind="quiet"
          className="px-1.5 text-note whitespace-nowrap"
          onClick={() => act({ kind: "bike", tag: null })}
        >
          Walk-in
        </Button>
      </div>
      {bike.isError && <Failure error={bike.error} again={() => bike.refetch()} />}
      {bike.data && (
        <p className="text-note leading-snug">
          <b className="break-words">{bike.data.customer.name}</b>
          <span className="block text-quiet">
            {bikeName(bike.data.facts)}. {drivetrainLine(bike.data.facts)}
          </span>
        </p>
      )}
    </div>
  );
}

/** Asks for what a verdict cannot do without, where neither record nor bench knows it. */
export function DrivetrainAsked({
  bench,
  act,
  answer,
}: {
  bench: Bench;
  act: (a: Action) => void;
  answer: BenchAnswer | undefined;
}) {
  const d = bench.drivetrain;
  const asked =
    bench.tag === null || (answer?.missing ?? []).some((m) => m !== "links") || d.kind !== "" || d.sprockets !== "";
  if (!asked) return null;
  const one = d.kind === "single-speed" || d.kind === "hub-gear";
  return (
    <fieldset className="grid grid-cols-2 gap-2">
      <legend className="fieldset-legend">
        {bench.tag === null ? "Its drivetrain" : "Not on record: asked for the verdict"}
      </legend>
      <Select
        aria-label="Gears"
        name="kind"
        value={d.kind}
        onChange={(e) => act({ kind: "drivetrain", change: { kind: e.target.value } })}
      >
        <option value="">Gears?</option>
        {Object.entries(drivetrainWords).map(([v, w]) => (
          <option key={v} value={v}>
            {w}
          </option>
        ))}
      </Select>
      <Select
        aria-label="Speeds (rear sprockets)"
        name="sprockets"
        disabled={one}
        value={one ? "1" : d.sprockets}
        onChange={(e) => act({ kind: "drivetrain", change: { sprockets: e.target.value } })}
      >
        <option value="">Speeds?</option>
        {Array.from({ length: 14 }, (_, i) => String(i + 1)).map((n) => (
          <option key={n} value={n}>
            {n} {n === "1" ? "sprocket" : "sprockets"}
          </option>
        ))}
      </Select>
      <Select
        aria-label="Motor"
        name="motor"
        value={d.motor}
        onChange={(e) => act({ kind: "drivetrain", change: { motor: e.target.value } })}
      >
        <option value="">Motor?</option>
        {Object.entries(motorWords).map(([v, w]) => (
          <option key={v} value={v}>
            {w}
          </option>
        ))}
      </Select>
      <label className="flex min-h-(--target) items-center gap-2 text-note">
        <Checkbox
          checked={d.carry}
          onChange={(e) => act({ kind: "drivetrain", change: { carry: e.target.checked } })}
        />
        Cargo or children
      </label>
    </fieldset>
  );
}

const missingWords: Record<string, string> = {
  kind: "what gears it has",
  sprockets: "how many speeds",
  motor: "whether a motor pulls the chain",
  links: "how many links lie between the end pins",
};

/** The verdict in a word and a sentence, what to do now, why, and what others would say. */
export function VerdictOf({ answer, act }: { answer: BenchAnswer | undefined; act: (a: Action) => void }) {
  const w = answer?.wear;
  if (!w) {
    const missing = answer?.missing ?? [];
    const typed = (answer?.entries.length ?? 0) > 0;
    return (
      <div className="text-quiet" aria-live="polite">
        <p className="text-lg text-base-content">{typed ? "No verdict yet" : "Read the first place."}</p>
        {missing.length > 0 ? (
          <p>To judge it, say {missing.map((m) => missingWords[m]).join(" and ")}.</p>
        ) : typed ? (
          <p>Nothing that was typed is understood yet.</p>
        ) : (
          <p>The verdict, its reasons and what the other schools say appear as you type.</p>
        )}
      </div>
    );
  }
  return (
    <div className="flex flex-col gap-2.5">
      <div aria-live="polite">
        <h2 className="flex items-center gap-3">
          <span className="text-figure leading-[1.08] font-bold" data-testid="verdict">
            {verdictWords[w.verdict]}
          </span>
        </h2>
        <p className="mt-1 text-lg leading-snug">{verdictSentence(w)}</p>
      </div>
      {answer?.bias && (
        <p className="border-l-4 border-warning pl-3 text-note" data-testid="bias">
          {biasWords(answer.bias)}
        </p>
      )}
      <ChanceBar wear={w} />
      <section>
        <h2 className="text-fine font-semibold text-quiet">Now</h2>
        <ul className="leading-snug">
          {whatNow(w, answer?.lean_decides).map((d) => (
            <li key={d}>{d}</li>
          ))}
        </ul>
      </section>
      <Settling answer={answer} act={act} />
      <section>
        <h2 className="text-fine font-semibold text-quiet">Why</h2>
        <ul className="text-note leading-snug">
          {w.reasons.map((r) => {
            const said = reasonWords(r);
            return said && <li key={r.code + (r.finding ?? "") + (r.place ?? "")}>{said}</li>;
          })}
        </ul>
      </section>
      <section>
        <h2 className="text-fine font-semibold text-quiet mb-0.5">Other shop rules would say</h2>
        <ul>
          {w.other_schools.map((o) => (
            <li key={o.school} className="flex justify-between gap-3 border-t border-base-300 py-0.5 text-note">
              <span title={schoolWords[o.school].why}>{schoolWords[o.school].name}</span>
              <b>{verdictWords[o.verdict]}</b>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}

/** What would settle an unsure verdict: a finer tool of the shop, or more places with this one. */
function Settling({ answer, act }: { answer: BenchAnswer; act: (a: Action) => void }) {
  const decides = answer.lean_decides && answer.wear?.lean;
  const finest = decides ? undefined : answer.settle?.[0];
  const places = decides ? undefined : answer.settle_places;
  if (!finest && !places && !decides) return null;
  return (
    <section className="flex flex-col gap-1.5">
      <h2 className="text-fine font-semibold text-quiet">
        {decides ? "No tool of this shop can settle it" : "What would settle it"}
      </h2>
      {decides && (
        <p className="border-l-4 border-warning pl-3" data-testid="decides">
          {answer.wear?.lean === "replace"
            ? "Go by where it leans: replace the chain."
            : "Go by where it leans: ride on, and measure again at the next visit."}
        </p>
      )}
      {finest && (
        <Button onClick={() => act({ kind: "instrument", id: finest.instrument_id })}>
          <span>
            Measure with {finest.name} <span className="font-mono font-normal">± {percent(finest.sigma_pct)} %</span>
          </span>
        </Button>
      )}
      {places !== undefined && (
        <p className="text-note">Or {places} places in all with this tool, should they read the same.</p>
      )}
    </section>
  );
}
