import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useMemo, useRef, useState } from "react";
import { NavLink, useLocation, useNavigate } from "react-router";
import type { Session } from "../api/client";
import { useLive } from "../api/live";
import { waitingOptions } from "../api/queries";
import { useUnsent } from "../outbox/queue";
import { useReach } from "../outbox/reach";
import { Notices } from "./Away";
import { Button, Key } from "./controls";
import { Find } from "./Find";
import { useFocusKept } from "./focus";
import { nearTime, shortName, weekdayAndTime } from "./format";
import { type Commands, frameContext } from "./frame";
import { Icon, PonyHead } from "./icons";
import { useKeys } from "./keys";
import { PersonMenu } from "./PersonMenu";
import { Dialog } from "./parts";
import { useScrollPlace } from "./remember";
import { Slips } from "./Slips";
import { useToSend } from "./sending";
import { useServerTime, WaitsStrip } from "./Waits";
import { useWedge } from "./wedge";

const places = [
  { to: "/today", words: "Today", key: "t", icon: "floor" },
  { to: "/bikes", words: "Bikes", key: "b", icon: "bikes" },
  { to: "/measure", words: "Measure", key: "m", icon: "bench" },
  { to: "/chain-length", words: "Chain length", key: "l", icon: "sizer" },
  { to: "/due", words: "Due", key: "d", icon: "due" },
  { to: "/stock", words: "Stock", key: "s", icon: "stores" },
  { to: "/customers", words: "Customers", key: "c", icon: "customers" },
  { to: "/settings", words: "Settings", key: "g", icon: "rules" },
] as const;

/** In a demo the clock runs apart from the world's: it says so, and what time it is there. */
function DemoTime() {
  const now = useServerTime();
  return (
    <span className="shrink-0 rounded-field border border-frame-quiet/50 px-2 text-fine leading-tight text-frame-quiet max-md:w-min max-md:px-1 max-md:text-mark">
      demo time{" "}
      <span className="font-mono whitespace-nowrap text-frame-ink">{weekdayAndTime(new Date(now).toISOString())}</span>
    </span>
  );
}

/** The dark frame round every place: the bar with finding and person, and the rail of places. */
export function Frame({ session, signedOut, children }: { session: Session; signedOut: boolean; children: ReactNode }) {
  const navigate = useNavigate();
  const ofScreen = useRef<Commands>({});
  const [shown, setShown] = useState<"nothing" | "find" | "person" | "keys">("nothing");
  const context = useMemo(() => ({ session, commands: ofScreen }), [session]);
  const heard = useLive(!signedOut);
  useWedge(session.shop.simulated_tool === true);
  const openTag = (tag: string) => {
    setShown("nothing");
    navigate(`/bikes/${tag.toUpperCase()}`);
  };

  const commands: Record<string, () => void> = {
    "/": () => setShown("find"),
    "?": () => setShown("keys"),
  };
  for (const p of places) commands[p.key] = () => navigate(p.to);
  commands.w = () => navigate("/waiting");
  const { pathname } = useLocation();
  const screen = useRef<HTMLElement>(null);
  useScrollPlace(screen, pathname);
  useFocusKept(screen);
  // A place's own commands come after, so that they win: M on a bike's page measures that bike.
  const all = new Proxy(commands, { get: (own, k: string) => ofScreen.current[k]?.run ?? own[k] });
  useKeys(shown === "nothing" ? all : {}, openTag);

  return (
    <frameContext.Provider value={context}>
      <div className="frame grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_1fr_auto_auto] bg-frame text-frame-ink sm:grid-cols-[76px_minmax(0,1fr)] sm:grid-rows-[52px_1fr_auto]">
        <a href="#screen" className="btn btn-frame sr-only focus:not-sr-only focus:absolute focus:z-30">
          Skip to the screen
        </a>
        <header className="no-print flex items-center gap-2 px-3 py-1 sm:col-span-2 sm:gap-3 sm:py-0">
          <NavLink to="/today" className="flex items-center gap-2 rounded-field" aria-label="Earnest Pony">
            <PonyHead />
            <span className="hidden whitespace-nowrap text-lg font-bold md:inline">Earnest Pony</span>
          </NavLink>
          <span className="min-w-0 shrink truncate text-frame-quiet max-lg:hidden lg:max-w-64">
            {session.shop.name}
          </span>
          {session.demo_time && <DemoTime />}
          <button
            type="button"
            onClick={() => setShown("find")}
            className="btn btn-frame mx-auto w-full max-w-[430px] min-w-0 justify-between text-frame-quiet"
          >
            <span className="truncate">Find: tag, customer, bike</span>
            <Key>/</Key>
          </button>
          <WaitingLink />
          <SendState heard={heard} signedOut={signedOut} />
          <button
            type="button"
            onClick={() => setShown("person")}
            aria-haspopup="dialog"
            className="btn btn-frame shrink-0"
          >
            {shortName(session.person.name)}
          </button>
        </header>
        <nav
          aria-label="Places"
          className="no-print order-last flex justify-around gap-1 px-1 pb-[env(safe-area-inset-bottom)] sm:order-none sm:flex-col sm:justify-start sm:px-0 sm:py-1.5"
        >
          {places.map((p) => (
            <PlaceLink key={p.to} place={p} />
          ))}
        </nav>
        <div className="frame-screen flex min-h-0 min-w-0 flex-col">
          <Notices signedOut={signedOut} />
          <main
            id="screen"
            ref={screen}
            data-path={pathname}
            tabIndex={-1}
            className="relative min-h-0 grow overflow-auto bg-base-200 text-base-content outline-none"
          >
            {children}
          </main>
        </div>
        <WaitsStrip />
      </div>
      <Slips />
      {shown === "find" && <Find close={() => setShown("nothing")} open={openTag} />}
      {shown === "person" && <PersonMenu close={() => setShown("nothing")} />}
      {shown === "keys" && <Keys commands={ofScreen.current} close={() => setShown("nothing")} />}
    </frameContext.Provider>
  );
}

function PlaceLink({ place }: { place: (typeof places)[number] }) {
  const path = useLocation().pathname;
  const here = path.startsWith(place.to) || (place.to === "/today" && path.startsWith("/jobs"));
  return (
    <NavLink
      to={place.to}
      className={`relative flex min-h-[52px] grow flex-col items-center justify-center gap-0.5 rounded-field text-center text-fine leading-tight sm:ml-1.5 sm:min-h-[66px] sm:grow-0 sm:rounded-r-none ${
        here
          ? "bg-base-200 font-semibold text-base-content shadow-[inset_0_3px_0_var(--color-accent)] sm:shadow-[inset_3px_0_0_var(--color-accent)]"
          : "text-frame-quiet hover:text-frame-ink"
      }`}
    >
      <Icon name={place.icon} />
      {place.words}
      <kbd className="absolute top-1.5 right-2 hidden font-mono text-mark opacity-70 sm:inline pointer-coarse:hidden">
        {place.key.toUpperCase()}
      </kbd>
    </NavLink>
  );
}

/** What waits for whoever is signed in, and how many things that are. */
function WaitingLink() {
  const mine = useQuery(waitingOptions).data?.mine ?? 0;
  return (
    <NavLink
      to="/waiting"
      className={({ isActive }) =>
        `btn btn-frame shrink-0 gap-2 ${mine === 0 ? "max-lg:hidden" : ""} ${isActive ? "underline underline-offset-4" : ""}`
      }
    >
      <span className="max-sm:sr-only">Waiting</span>
      {mine > 0 && <span className="badge badge-accent badge-sm font-mono">{mine}</span>}
    </NavLink>
  );
}

/** Whether everything typed has reached the server; who is signed out is told that, and not that there is no server. */
function SendState({ heard, signedOut }: { heard: boolean; signedOut: boolean }) {
  const pending = useToSend();
  const unsent = useUnsent();
  const { reached } = useReach();
  const toSend = Math.max(pending, unsent.length);
  const away = !heard || !reached;
  const said = toSend > 0 ? `${toSend} to send` : signedOut ? "Signed out" : away ? "No server" : "All saved";
  const alarm = toSend > 0 || signedOut || away;
  const oldest = unsent[0];
  const state = (
    <span
      role="status"
      className={`shrink-0 text-note ${alarm ? "font-semibold text-accent" : "text-frame-quiet max-lg:hidden"}`}
    >
      {said}
      {oldest && (
        <span className="font-normal max-lg:block max-lg:text-fine">
          {" "}
          since {nearTime(new Date(oldest.at + oldest.behind).toISOString())}
        </span>
      )}
    </span>
  );
  if (unsent.length === 0) return state;
  return (
    <NavLink to="/unsent" className="btn btn-frame shrink-0 px-2" title="What is to be sent">
      {state}
    </NavLink>
  );
}

function Keys({ commands, close }: { commands: Commands; close: () => void }) {
  const rows: [string, string][] = [
    ["/", "Find a bike or customer"],
    ...places.map((p): [string, string] => [p.key.toUpperCase(), p.words]),
    ["W", "What waits for somebody"],
    ...Object.entries(commands).map(([key, d]): [string, string] => [key.toUpperCase(), d.words]),
    ["Enter", "The main action of the screen"],
    ["Escape", "Back out"],
    ["Tag, Enter", "A scanned tag opens its bike from anywhere"],
  ];
  return (
    <Dialog title="Keys" close={close}>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-2">
        {rows.map(([key, words]) => (
          <div key={key + words} className="contents">
            <dt>
              <kbd className="kbd kbd-sm">{key}</kbd>
            </dt>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
      <Button onClick={close}>Close</Button>
    </Dialog>
  );
}
