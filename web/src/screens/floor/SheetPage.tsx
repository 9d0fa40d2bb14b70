import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import type { Sheet } from "../../api/client";
import { sheetOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { clock, fullDayWords, weekdayAndTime } from "../../ui/format";
import { useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { useKept } from "../../ui/kept";
import { Empty, Tick } from "../../ui/parts";
import { Tag } from "../../ui/Tag";
import { materialAmount } from "../../ui/units";
import { materialWords } from "../../words/work";
import { placeWords } from "./rail";

/** What is to be had ready for a day, in order of time: for the evening before, printed or ticked off. */
export function SheetPage() {
  const day = useSearchParams()[0].get("day") ?? undefined;
  const sheet = useQuery(sheetOptions(day));
  return (
    <Fetched query={sheet} what="the sheet">
      {(s) => <SheetView key={s.day} sheet={s} />}
    </Fetched>
  );
}

const isTicks = (v: unknown): v is string[] => Array.isArray(v) && v.every((x) => typeof x === "string");

function SheetView({ sheet: s }: { sheet: Sheet }) {
  const shop = useSession().shop;
  const [ticks, setTicks] = useKept<string[]>(`pony.sheet.${s.day}`, [], isTicks);
  const on = (key: string) => ticks.includes(key);
  const set = (key: string) => (is: boolean) =>
    setTicks(is ? [...ticks.filter((t) => t !== key), key] : ticks.filter((t) => t !== key));
  return (
    <div className="mx-auto flex max-w-[860px] flex-col gap-4 p-3 wrap-anywhere sm:p-6 print:max-w-none print:p-0">
      <div className="no-print flex flex-wrap gap-2">
        <Button kind="main" onClick={() => window.print()}>
          Print
        </Button>
        <ButtonLink to="/today">Back to Today</ButtonLink>
      </div>
      <article className="card card-border bg-base-100 flex min-w-0 flex-col gap-5 p-4 sm:p-6 print:border-0">
        <header>
          <p className="text-fine font-semibold text-quiet">{shop.name}</p>
          <Heading className="text-2xl leading-tight">Ready for {fullDayWords(s.day)}</Heading>
          <p className="text-note text-quiet">
            {s.people.length === 0
              ? "Nobody works on that day."
              : s.people
                  .map((p) => `${p.name} ${p.hours.map((h) => `${clock(h.from)}–${clock(h.until)}`).join(", ")}`)
                  .join("; ")}
          </p>
          <p className="text-fine text-quiet">
            By the plan of {weekdayAndTime(s.made_at)}; bikes that come in meanwhile are not on it.
          </p>
        </header>
        <Order sheet={s} on={on} set={set} />
        {s.heats.length > 0 && (
          <Part title="Switch on">
            {s.heats.map((h) => (
              <li key={h.at + h.tag + h.title}>
                <Tick on={on(`heat ${h.at} ${h.tag}`)} set={set(`heat ${h.at} ${h.tag}`)}>
                  <b className="font-mono">{clock(h.at)}</b> {placeWords[h.place] ?? h.place}: {h.title.toLowerCase()},
                  for <span className="font-mono">{h.tag}</span>
                </Tick>
              </li>
            ))}
          </Part>
        )}
        {s.jobs.length === 0 ? (
          <Empty title="Nothing is planned for that day.">
            <p>Bikes that are booked in and planned stand here with what they need.</p>
          </Empty>
        ) : (
          <Part title="Bike by bike">
            {s.jobs.map((j) => (
              <Bike key={j.job} job={j} on={on} set={set} />
            ))}
          </Part>
        )}
        {s.fluids.length > 0 && (
          <Part title="For the whole day">
            {s.fluids.map((a) => (
              <li key={amountKey(a)}>
                <Tick on={on(`fluid ${amountKey(a)}`)} set={set(`fluid ${amountKey(a)}`)}>
                  {amountOf(a)}
                </Tick>
              </li>
            ))}
          </Part>
        )}
      </article>
    </div>
  );
}

type Ticks = { on: (key: string) => boolean; set: (key: string) => (is: boolean) => void };

/** What there is too little of: it must be ordered before the day. */
function Order({ sheet: s, on, set }: { sheet: Sheet } & Ticks) {
  if (s.order.length === 0) return null;
  return (
    <section aria-label="Order tonight" className="border-l-4 border-warning pl-3" data-testid="order">
      <h2 className="text-lg">Order tonight</h2>
      <ul>
        {s.order.map((o) => (
          <li key={amountKey(o)}>
            <Tick on={on(`order ${amountKey(o)}`)} set={set(`order ${amountKey(o)}`)}>
              <b>{whatOf(o)}</b>: {materialAmount(o.amount, o.unit)} planned, {materialAmount(o.have, o.unit)} there;
              needed {weekdayAndTime(o.needed_at)} for <span className="font-mono">{o.tag}</span>
            </Tick>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Bike({ job: j, on, set }: { job: Sheet["jobs"][number] } & Ticks) {
  const needs = [...j.amounts.map(amountOf), ...j.places.map((p) => (placeWords[p] ?? p).toLowerCase()), ...j.tools];
  return (
    <li className="border-t border-base-300 py-2 first:border-t-0" data-testid="sheet-job">
      <Tick on={on(`job ${j.job}`)} set={set(`job ${j.job}`)}>
        <span className="flex flex-wrap items-center gap-x-3">
          <b className="font-mono">{clock(j.first_at)}</b>
          <Tag tag={j.tag} size="small" />
          <span>
            {j.customer.name}, {j.bike}
          </span>
        </span>
      </Tick>
      <p className="pl-9 text-note text-quiet">
        {j.by}
        {j.promised_at && `; promised ${weekdayAndTime(j.promised_at)}`}
        {j.guess && "; a guess: it is not planned yet"}
      </p>
      <p className="pl-9 text-note">{needs.join(", ")}</p>
    </li>
  );
}

type Amount = Sheet["fluids"][number];

const amountKey = (a: Amount) => `${a.material} ${a.sprockets ?? ""} ${a.unit}`;

const whatOf = (a: Amount) =>
  a.sprockets ? `${materialWords(a.material)}, ${a.sprockets}-speed` : materialWords(a.material);

const amountOf = (a: Amount) => `${whatOf(a).toLowerCase()} ${materialAmount(a.amount, a.unit)}`;

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section aria-label={title}>
      <h2 className="text-lg">{title}</h2>
      <ul>{children}</ul>
    </section>
  );
}
