import { useEffect, useRef } from "react";
import { Link } from "react-router";
import type { BenchAnswer, Instrument } from "../../api/client";
import { Loop } from "../../draw/Loop";
import { Button, Input, PressButton } from "../../ui/controls";
import { shortDay } from "../../ui/format";
import { Icon } from "../../ui/icons";
import { takesText } from "../../ui/keys";
import { Field } from "../../ui/parts";
import { inShopUnits } from "../../ui/units";
import { wedgeChannel } from "../../ui/wedge";
import { kindWords } from "../../words/tools";
import { lookWords, understoodLine } from "../../words/wear";
import { type Action, type Bench, isEmpty } from "./state";

type Props = {
  bench: Bench;
  act: (a: Action) => void;
  tools: Instrument[];
  tool: Instrument;
  answer: BenchAnswer | undefined;
  unit: "mm" | "in";
  enter: () => void;
  simulated: boolean; // a simulated tool may be plugged in
};

/** The left of the bench: which tool, which place, and what it reads. */
/** What the rules say of an entry, in the shop's units. */
const said = (message: string | undefined) => (message === undefined ? undefined : inShopUnits(message));

export function Entering(p: Props) {
  const { bench, act, tool, answer } = p;
  const answerAt = (place: number) => answer?.entries.find((e) => e.place === place);
  const places = bench.entries.map((e, i) => ({
    number: i + 1,
    state: isEmpty(e) ? ("empty" as const) : answerAt(i + 1)?.fault ? ("fault" as const) : ("read" as const),
  }));
  return (
    <>
      <section aria-label="Measured with">
        <div className="mb-1 flex items-center justify-between gap-2">
          <h2 className="text-fine font-semibold text-quiet">Measured with</h2>
          {p.simulated && (
            <Button kind="quiet" className="-my-3 px-0 text-fine" onClick={plugIn} data-testid="plug-in">
              Plug in simulated tool
            </Button>
          )}
        </div>
        <ul className="grid grid-cols-2 gap-1 min-[560px]:max-[699px]:grid-cols-3">
          {p.tools.map((t) => (
            <li key={t.id}>
              <PressButton
                on={t.id === tool.id}
                onClick={() => act({ kind: "instrument", id: t.id })}
                className="w-full flex-col items-start gap-0 px-2 text-left leading-tight"
              >
                <span className="w-full truncate text-note">{t.name}</span>
                <span className="text-mark opacity-80">
                  {t.marks_pct?.length ? t.marks_pct.join(" · ") : kindWords[t.kind]}
                  {t.zero_check_due && " · zero?"}
                </span>
              </PressButton>
            </li>
          ))}
        </ul>
        {tool.zero_check_due && (
          <p className="flex flex-wrap items-center justify-between gap-x-3 text-fine text-soon-ink">
            {tool.zero_checked_on
              ? `Zero last checked ${shortDay(tool.zero_checked_on)}`
              : "Its zero was never checked"}
            <Link
              to={`/settings/tools/${tool.id}`}
              className="flex min-h-(--target) items-center underline underline-offset-4"
            >
              Check it
            </Link>
          </p>
        )}
      </section>
      <section aria-label="Places">
        <h2 className="text-fine font-semibold text-quiet">
          Place {bench.at} of {bench.entries.length}
          {bench.at === 1 && <span className="font-normal"> · beside the joining link</span>}
        </h2>
        <div className="flex items-center justify-between gap-2">
          <div className="min-w-0 grow">
            <Loop places={places} at={bench.at} choose={(at) => act({ kind: "place", at })} />
          </div>
          <span className="flex flex-col gap-1">
            <Small label="One place more" press={() => act({ kind: "more-places" })} off={bench.entries.length >= 8}>
              +
            </Small>
            <Small label="One place fewer" press={() => act({ kind: "fewer-places" })} off={bench.entries.length <= 1}>
              −
            </Small>
          </span>
        </div>
      </section>
      {tool.kind === "gauge-dropin" ? (
        <Marks {...p} />
      ) : tool.kind === "pull-off" ? (
        <Looks {...p} />
      ) : (
        <Typing {...p} />
      )}
    </>
  );
}

/** Opens the simulated tool in a window of its own, plugged into this one. */
function plugIn() {
  window.open(`/simulated-tool/${wedgeChannel()}`, "pony-simulated-tool", "popup,width=380,height=560");
}

function Small({ label, press, off, children }: { label: string; press: () => void; off: boolean; children: string }) {
  return (
    <Button aria-label={label} onClick={press} disabled={off} className="btn-square border-base-300 font-mono text-lg">
      {children}
    </Button>
  );
}

/** The one big field, what it understood, and a keypad for gloves. */
function Typing({ bench, act, tool, answer, unit, enter }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const text = bench.entries[bench.at - 1]?.text ?? "";
  const here = answer?.entries.find((e) => e.place === bench.at);
  const length = tool.kind !== "gauge-percent";
  const touch = window.matchMedia("(pointer: coarse)").matches;

  // biome-ignore lint/correctness/useExhaustiveDependencies: going to another place or tool puts the cursor into the field
  useEffect(() => {
    if (!touch) input.current?.focus();
  }, [bench.at, tool.id, touch]);
  // A number typed, by a person or by a tool that types for itself, lands in the field wherever the focus is.
  useEffect(() => {
    const toField = (e: KeyboardEvent) => {
      if (/^[\d.,+-]$/.test(e.key) && !takesText(document.activeElement) && !document.querySelector("dialog[open]"))
        input.current?.focus();
    };
    window.addEventListener("keydown", toField);
    return () => window.removeEventListener("keydown", toField);
  }, []);

  const type = (key: string) => {
    const spaced = key === "in" || key === "mm" ? ` ${key}` : key;
    act({ kind: "typed", text: text + spaced });
  };
  const fault = answer?.new_length_fault ? undefined : said(here?.fault?.message);
  const keys = [
    "7",
    "8",
    "9",
    "/",
    "4",
    "5",
    "6",
    length ? "in" : "%",
    "1",
    "2",
    "3",
    length ? "mm" : "−",
    "0",
    ".",
    "space",
    "+",
  ];
  return (
    <section aria-label="Reading" className="flex flex-col gap-1.5">
      {length && (
        <div className="grid grid-cols-2 gap-2">
          <Field
            label={tool.needs_count ? "Links between end pins" : "Over links"}
            fault={said(answer?.links_fault?.message)}
          >
            {(a) => (
              <Input
                {...a}
                name="links"
                inputMode="numeric"
                value={bench.links}
                maxLength={4}
                placeholder={tool.default_links ? String(tool.default_links) : "count them"}
                onChange={(e) => act({ kind: "links", links: e.target.value.replace(/\D/g, "") })}
              />
            )}
          </Field>
          {answer?.links_on_record !== undefined && bench.links === "" && (
            <Button
              className="self-end px-2"
              onClick={() => act({ kind: "links", links: String(answer.links_on_record) })}
            >
              {answer.links_on_record}, from the record
            </Button>
          )}
          {tool.kind === "caliper-inside" && (
            <Field label="On a new chain" fault={said(answer?.new_length_fault?.message)}>
              {(a) => (
                <Input
                  {...a}
                  name="new_length"
                  inputMode="decimal"
                  value={bench.newLength}
                  maxLength={40}
                  placeholder="119.35"
                  onChange={(e) => act({ kind: "new-length", text: e.target.value })}
                />
              )}
            </Field>
          )}
        </div>
      )}
      <div
        className={`flex h-16 items-center rounded-field border-2 bg-base-100 ${fault ? "border-error" : "border-base-content"}`}
      >
        <Input
          ref={input}
          name="reading"
          aria-label={`Reading at place ${bench.at}`}
          aria-invalid={fault !== undefined}
          aria-describedby="understood"
          autoComplete="off"
          inputMode={touch ? "none" : "text"} // the keypad below is larger than the device's own
          className="input-ghost h-full min-w-0 border-0 bg-transparent px-3 font-mono text-reading font-semibold outline-none"
          value={text}
          maxLength={200}
          onChange={(e) => act({ kind: "typed", text: e.target.value })}
          onKeyDown={(e) => {
            if (e.key === "Enter") enter();
            else if (e.key === "ArrowDown") act({ kind: "place", at: bench.at + 1 });
            else if (e.key === "ArrowUp") act({ kind: "place", at: bench.at - 1 });
            else if (e.key === "Escape") act({ kind: "typed", text: "" });
            else return;
            e.preventDefault();
          }}
        />
        <span className="font-mono text-xl text-quiet">{length ? unit : "%"}</span>
        <Button
          tabIndex={-1} // the keyboard has this key
          aria-label="Erase"
          onClick={() => act({ kind: "typed", text: text.slice(0, -1) })}
          kind="cell"
          className="ml-2 flex h-full w-14 shrink-0 items-center justify-center border-l border-base-300 hover:bg-base-200"
        >
          <Icon name="erase" />
        </Button>
      </div>
      <p
        id="understood"
        data-testid="understood"
        role={fault ? "alert" : undefined}
        className={`min-h-[38px] text-fine leading-snug ${fault ? "font-semibold text-error" : "text-quiet"}`}
      >
        {fault ??
          (here?.understood
            ? understoodLine(here.understood, answer?.links, tool.zero_offset_pct)
            : length
              ? unit === "in"
                ? "12 1/16, 306.4 mm, or +1/16 past the mark"
                : "306.4, 12 1/16 in, or +1.6 past the mark"
              : "Percent as the gauge reads it, such as 0.62")}
      </p>
      <div className="grid grid-cols-4 gap-1">
        {keys.map((k) => (
          <Button
            key={k}
            tabIndex={-1} // the keyboard has these keys
            aria-label={k === "space" ? "Space" : k}
            onClick={() => type(k === "space" ? " " : k === "−" ? "-" : k)}
            className="border-base-300 font-mono text-xl"
          >
            {k === "space" ? "␣" : k}
          </Button>
        ))}
      </div>
    </section>
  );
}

/** Each mark of a drop-in gauge: does it drop in between the rollers, or not? */
function Marks({ bench, act, tool, answer }: Props) {
  const marks = bench.entries[bench.at - 1]?.marks ?? {};
  const fault = said(answer?.entries.find((e) => e.place === bench.at)?.fault?.message);
  return (
    <section aria-label="Reading" className="flex flex-col gap-3">
      {(tool.marks_pct ?? []).map((mark) => (
        <fieldset key={mark} className="flex flex-col gap-1">
          <legend className="mb-1 font-mono text-2xl font-semibold">{mark} %</legend>
          <div className="grid grid-cols-2 gap-1.5">
            {[true, false].map((dropsIn) => (
              <PressButton
                key={String(dropsIn)}
                on={marks[mark] === dropsIn}
                onClick={() => act({ kind: "marked", mark, dropsIn })}
                className="min-h-16 flex-col gap-1"
              >
                <svg
                  width="56"
                  height="24"
                  viewBox="0 0 56 24"
                  aria-hidden
                  fill="none"
                  stroke="currentColor"
                  strokeWidth="2"
                >
                  <circle cx="8" cy="17" r="5" />
                  <circle cx="48" cy="17" r="5" />
                  <path d={dropsIn ? "M18 2v14h20V2" : "M13 2v6l5 4h20l5 -4V2"} />
                </svg>
                {dropsIn ? "Drops in" : "Does not"}
              </PressButton>
            ))}
          </div>
        </fieldset>
      ))}
      {fault && (
        <p role="alert" className="text-fine font-semibold text-error">
          {fault}
        </p>
      )}
    </section>
  );
}

/** How the chain lies when it is pulled forward off the front of the big ring. */
function Looks({ bench, act }: Props) {
  const look = bench.entries[bench.at - 1]?.look;
  // How far the middle of the chain lifts off the teeth, in the drawing's pixels.
  const lift: Record<string, number> = { flush: 0, daylight: 13, "clears-tooth": 28 };
  const rollers = (up: number) => [18, 34, 50, 66, 82].map((x) => ({ x, y: 46 - up * (1 - Math.abs(x - 50) / 40) }));
  return (
    <section aria-label="Reading" className="flex flex-col gap-2">
      <p className="text-fine text-quiet">
        Pull the chain forward off the front of the big chainring and look from the side.
      </p>
      {Object.entries(lookWords).map(([value, words]) => (
        <PressButton
          key={value}
          on={look === value}
          onClick={() => act({ kind: "looked", look: value })}
          className="min-h-18 justify-start gap-4 px-4 text-left font-semibold"
        >
          <svg
            width="100"
            height="56"
            viewBox="0 0 100 56"
            aria-hidden
            fill="none"
            stroke="currentColor"
            strokeWidth="2"
          >
            <path
              d="M2 54L10 34L18 54L26 34L34 54L42 34L50 54L58 34L66 54L74 34L82 54L90 34L98 54"
              strokeLinejoin="round"
            />
            <polyline
              points={rollers(lift[value] ?? 0)
                .map((r) => `${r.x},${r.y}`)
                .join(" ")}
              strokeWidth="5"
              opacity="0.45"
            />
            {rollers(lift[value] ?? 0).map((r) => (
              <circle key={r.x} cx={r.x} cy={r.y} r="5" className="fill-current" />
            ))}
          </svg>
          {words}
        </PressButton>
      ))}
    </section>
  );
}
