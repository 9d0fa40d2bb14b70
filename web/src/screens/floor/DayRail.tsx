import { type CSSProperties, type PointerEvent, type RefObject, useEffect, useRef, useState } from "react";
import type { FloorStint, FloorTry } from "../../api/client";
import { tryFloorQuestion } from "../../api/queries";
import { useAnswer } from "../../ui/answer";
import { Button } from "../../ui/controls";
import { clock } from "../../ui/format";
import { sayError } from "../../ui/said";
import { now } from "../../ui/shop";
import { costWords } from "./floor";
import { type Flag, type Go, hourWidth, type Lane, type Mark, named, type Rail, shortTag, timeAt } from "./rail";

type Props = {
  rail: Rail;
  open: (g: Go) => void;
  promise: (job: string) => void;
  /** Lets go of what was dragged. */
  drop: (t: FloorTry) => void;
};

type Drag = { what: FloorTry; words: string; x: number; y: number };

/** People and places as lanes along the day; work solid, waits hatched, promises as flags, a line for now. */
export function DayRail({ rail, open, promise, drop }: Props) {
  const track = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const { from, now } = rail;
  const near = useRef(now);
  near.current = now;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a rail that is wider than its place begins near now, once for each day
  useEffect(() => {
    if (box.current && near.current !== undefined)
      box.current.scrollLeft = Math.max(near.current * box.current.scrollWidth - box.current.clientWidth / 3, 0);
  }, [from]);
  const shareAt = (e: PointerEvent) => {
    const box = track.current?.getBoundingClientRect();
    return box && box.width > 0 ? (e.clientX - box.left) / box.width : 0;
  };
  const begun = useRef<{ x: number; y: number } | null>(null);
  const [lifted, lift] = useLifting(box);
  const end = () => {
    begun.current = null;
    lift(null);
  };
  /**
   * What makes a mark one that can be dragged: what it would be dropped as, from where the pointer is. A mark with a
   * key lies where a finger scrolls the rail: the finger rests on it before it drags it.
   */
  const dragged = (
    at: (e: PointerEvent) => { what: FloorTry; words: string } | null,
    tap: () => void,
    key?: string,
  ) => ({
    "data-lifted": key !== undefined && lifted === key,
    onPointerDown: (e: PointerEvent<HTMLButtonElement>) => {
      if (e.button !== 0) return;
      begun.current = { x: e.clientX, y: e.clientY };
      if (e.pointerType === "touch" && key !== undefined) lift(key);
      e.currentTarget.setPointerCapture?.(e.pointerId);
    },
    onPointerMove: (e: PointerEvent) => {
      const from = begun.current;
      if (!from || (!drag && Math.hypot(e.clientX - from.x, e.clientY - from.y) < 8)) return;
      if (e.pointerType === "touch" && key !== undefined && lifted !== key) return end(); // it scrolls
      const to = at(e);
      setDrag(to ? { ...to, x: e.clientX, y: e.clientY } : null);
    },
    onPointerUp: () => {
      if (drag) drop(drag.what);
      end();
    },
    onPointerCancel: () => {
      end();
      setDrag(null);
    },
    onClick: () => {
      if (drag) setDrag(null);
      else tap();
    },
  });
  const [folded, fold] = useState(!rail.contested);
  const lane = (l: Lane, tall: boolean) => (
    <div key={l.key} className="contents" data-testid="lane">
      <div
        className={`sticky left-0 z-10 flex items-center truncate border-b border-base-300 bg-base-100 pr-2 pl-3 ${tall ? "text-base font-semibold" : "text-fine text-quiet"}`}
        title={l.label}
      >
        <span className="truncate">{tall ? (l.label.split(" ")[0] ?? l.label) : l.label}</span>
      </div>
      <div
        className="relative border-b border-base-300"
        style={{ height: tall ? laneHeight(l.rows) : 36 }}
        data-person={l.person}
      >
        {l.marks.map((m) => (
          <MarkBox
            key={m.key}
            mark={m}
            handlers={
              m.kind === "work" && (m.stint.state === "planned" || m.stint.state === "ready")
                ? dragged(
                    (e) => {
                      const over = document
                        .elementsFromPoint(e.clientX, e.clientY)
                        .map((el) => (el as HTMLElement).dataset.person)
                        .find((p) => p !== undefined);
                      if (!over || over === m.stint.person) return null;
                      const who = rail.people.find((p) => p.person === over)?.label ?? "";
                      return { what: { ...named(m.go), person: over, ...stillAt(m.stint) }, words: `for ${who}` };
                    },
                    () => open(m.go),
                    m.key,
                  )
                : { onClick: () => m.kind === "work" && open(m.go) }
            }
          />
        ))}
      </div>
    </div>
  );
  const flag = (f: Flag) => (
    <Button
      key={f.job}
      data-testid="flag"
      title={`Promise of ${f.tag}: drag it, or tap to change it`}
      aria-label={`Promise of ${f.tag}${f.late ? ", will not be kept" : ""}`}
      kind="cell"
      className={`flag-grip hue-${f.hue}`}
      style={{ ...(f.back ? { right: percent(1 - f.at) } : { left: percent(f.at) }), bottom: 2 + 24 * f.row }}
      {...dragged(
        (e) => {
          const at = new Date(timeAt(rail, shareAt(e))).toISOString();
          return { what: { job: f.job, promised_at: at }, words: `by ${clock(at)}` };
        },
        () => promise(f.job),
      )}
    >
      <span className={`flag ${f.back ? "back" : ""}`}>
        {shortTag(f.tag)}
        {f.late && " !"}
      </span>
    </Button>
  );
  return (
    <div ref={box} className="card card-border bg-base-100 overflow-x-auto" data-testid="rail">
      <div
        className="relative grid min-w-(--rail) grid-cols-[104px_minmax(0,1fr)] max-sm:grid-cols-[76px_minmax(0,1fr)] print:min-w-0"
        style={{ "--rail": `${104 + hourWidth * (rail.hours.length - 1)}px` } as CSSProperties}
      >
        <div className="sticky left-0 z-10 border-b border-base-300 bg-base-100" />
        <div
          ref={track}
          className="relative border-b border-base-300"
          style={{ height: 52 + 24 * Math.max(...rail.flags.map((f) => f.row), 0) }}
        >
          {rail.hours.map((h, i) => (
            <span
              key={h.at}
              className={`absolute top-1 font-mono text-fine text-quiet ${i === rail.hours.length - 1 ? "-translate-x-full" : ""}`}
              style={{ left: percent(h.at) }}
            >
              {h.label}
            </span>
          ))}
          {rail.flags.map(flag)}
        </div>
        {rail.people.map((l) => lane(l, true))}
        {rail.places.length > 0 && (
          <>
            <Button
              kind="cell"
              className="no-print sticky left-0 z-10 min-h-(--target) border-b border-base-300 bg-base-100 pr-2 pl-3 text-left text-fine font-semibold"
              aria-expanded={!folded}
              onClick={() => fold(!folded)}
            >
              {folded ? "▸" : "▾"} Places
            </Button>
            <div className="no-print content-center border-b border-base-300 px-2 text-fine text-quiet">
              {/* It stays in view wherever the rail is scrolled to. */}
              <span className="sticky left-[112px] max-sm:left-[84px]">
                {folded && (rail.contested ? "One is full at times." : "There is room in each all day.")}
              </span>
            </div>
          </>
        )}
        {!folded && rail.places.map((l) => lane(l, false))}
        <div className="pointer-events-none absolute inset-y-0 right-0 left-[104px] max-sm:left-[76px]" aria-hidden>
          {rail.hours.map((h) => (
            <span key={h.at} className="absolute inset-y-0 w-px bg-base-300/60" style={{ left: percent(h.at) }} />
          ))}
          {rail.flags.map((f) => (
            <span key={f.job} className={`flag-line hue-${f.hue}`} style={{ left: percent(f.at) }} />
          ))}
          {rail.now !== undefined && (
            <span className="absolute inset-y-0 z-20 w-0.5 bg-error" style={{ left: percent(rail.now) }}>
              <span className="absolute top-0 left-1/2 -translate-x-1/2 rounded-field bg-error px-1.5 font-mono text-fine whitespace-nowrap text-error-content">
                {clock(new Date(rail.from + rail.now * (rail.until - rail.from)).toISOString())}
              </span>
            </span>
          )}
        </div>
      </div>
      {drag && <Cost drag={drag} />}
    </div>
  );
}

/** How long a finger rests on work before it lifts it off the rail. */
const rest = 350;

/** Which mark a finger rested on until it was lifted; while one is, the rail does not scroll under the finger. */
function useLifting(box: RefObject<HTMLElement | null>): [lifted: string | null, lift: (key: string | null) => void] {
  const [lifted, setLifted] = useState<string | null>(null);
  const timer = useRef<number | undefined>(undefined);
  useEffect(() => {
    const rail = box.current;
    if (!rail || lifted === null) return;
    const stay = (e: TouchEvent) => e.preventDefault();
    rail.addEventListener("touchmove", stay, { passive: false });
    return () => rail.removeEventListener("touchmove", stay);
  }, [box, lifted]);
  useEffect(() => () => window.clearTimeout(timer.current), []);
  const lift = (key: string | null) => {
    window.clearTimeout(timer.current);
    if (key === null) setLifted(null);
    else timer.current = window.setTimeout(() => setLifted(key), rest);
  };
  return [lifted, lift];
}

/** When work is to begin, where somebody said so and that is not over: it stays so in other hands. */
const stillAt = (s: FloorStint) => (s.kept_at && Date.parse(s.kept_at) > now() ? { at: s.kept_at } : {});

/** How high a lane of work is, in pixels. */
const laneHeight = (rows: number) => 4 + rowHeight * rows;
const rowHeight = 52;

const percent = (share: number) => `${(100 * share).toFixed(3)}%`;

function MarkBox({ mark: m, handlers }: { mark: Mark; handlers: object }) {
  const style = { left: percent(m.from), width: percent(Math.max(m.to - m.from, 0)) };
  if (m.kind === "off") return <span className="absolute inset-y-0 bg-base-300/50" style={style} aria-hidden />;
  if (m.kind === "stay")
    return (
      <span
        className={`stay hue-${m.hue} ${m.waits ? "hatched" : ""}`}
        style={style}
        title={`${m.tag} ${m.title}`}
        data-testid="stay"
      >
        <span className="font-mono">{shortTag(m.tag)}</span> {m.title}
      </span>
    );
  const s = m.stint;
  return (
    <Button
      kind="cell"
      className={`stint hue-${m.hue} ${s.state} ${s.guess ? "guess" : ""} ${s.kept_at ? "pinned" : ""}`}
      style={{ ...style, top: 4 + rowHeight * m.row, height: rowHeight - 4 }}
      title={`${s.tag} ${m.title}, from ${clock(s.start)}${s.state === "over" ? ", over its time" : ""}${s.guess ? ", a guess: it is not planned yet" : ""}${s.kept_at ? `, to begin at ${clock(s.kept_at)}` : ""}`}
      data-testid="stint"
      data-step={s.step}
      data-state={s.state}
      {...handlers}
    >
      <span className="block font-mono font-bold">{shortTag(m.tag)}</span>
      <span className="stint-words">
        {s.guess && "≈ "}
        {m.title}
      </span>
      {s.state === "over" && <span className="sr-only">over its time</span>}
    </Button>
  );
}

/** What letting go here would cost, beside the pointer. */
function Cost({ drag }: { drag: Drag }) {
  const cost = useAnswer(tryFloorQuestion(drag.what));
  return (
    <div
      role="status"
      data-testid="cost"
      className="pointer-events-none fixed z-50 max-w-72 rounded-field border border-base-300 bg-base-100 px-3 py-2 text-note"
      style={{ left: Math.min(drag.x + 16, window.innerWidth - 300), top: drag.y + 16 }}
    >
      <b>{drag.words}</b>
      <span className="block">
        {cost.error ? sayError(cost.error) : cost.answer ? costWords(cost.answer) : "Seeing what that costs…"}
      </span>
    </div>
  );
}
