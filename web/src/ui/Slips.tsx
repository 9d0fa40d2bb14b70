import { useEffect, useState } from "react";
import { Button } from "./controls";
import { dismiss, type Slip, takeBack, takeBackFor, useSlips } from "./undo";

/** Over the foot of every screen: what was done in the last ten seconds, with the way to take it back. */
export function Slips() {
  const slips = useSlips();
  const [now, setNow] = useState(() => Date.now());
  const any = slips.length > 0;
  useEffect(() => {
    if (!any) return;
    setNow(Date.now());
    const tick = window.setInterval(() => setNow(Date.now()), 250);
    return () => window.clearInterval(tick);
  }, [any]);
  if (!any) return null;
  return (
    <ul
      aria-label="Can be taken back"
      aria-live="polite"
      className="no-print pointer-events-none fixed top-[64px] right-3 left-3 z-20 flex flex-col items-start gap-2 sm:top-auto sm:right-auto sm:bottom-20 sm:left-[88px] sm:max-w-[230px] min-[1140px]:max-w-[280px]"
    >
      {slips.map((s) => (
        <One key={s.id} slip={s} now={now} />
      ))}
    </ul>
  );
}

function One({ slip: s, now }: { slip: Slip; now: number }) {
  const left = Math.min(takeBackFor / 1000, Math.max(0, Math.ceil((s.until - now) / 1000)));
  return (
    <li
      data-testid="slip"
      className="pointer-events-auto flex max-w-full flex-wrap items-center gap-x-4 gap-y-1 rounded-box border border-frame-quiet/50 bg-frame px-4 py-2 text-frame-ink shadow-lg"
    >
      <span className="min-w-0 wrap-anywhere">
        {s.words}
        {s.state === "open" && s.held && <span className="text-frame-quiet"> in {left} s</span>}
        {s.failure && <b className="block">{s.failure}</b>}
      </span>
      {s.state === "failed" ? (
        <Button className="text-base-content" onClick={() => dismiss(s.id)}>
          Close
        </Button>
      ) : (
        <Button className="text-base-content" disabled={s.state !== "open"} onClick={() => void takeBack(s.id)}>
          {s.state === "taking-back" ? "Taking it back…" : s.state === "doing" ? "Doing it…" : "Take it back"}
          {s.state === "open" && !s.held && <span className="ml-1 font-mono">{left} s</span>}
        </Button>
      )}
    </li>
  );
}
