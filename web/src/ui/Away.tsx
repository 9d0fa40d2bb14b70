import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { stopped, useBroken, useUnsent } from "../outbox/queue";
import { useReach } from "../outbox/reach";
import { loadNewVersion, onlineOnly, useNewVersion } from "../outbox/version";
import { Button } from "./controls";
import { nearTime } from "./format";
import { useSession } from "./frame";
import { useWhyNotSent } from "./sending";
import { behindBy } from "./shop";

// What the frame says over each screen: that there is no connection, what was not taken, what this device cannot do.

/** How long a connection may be away before it is said over the screen: a slow one comes back by itself. */
const patience = 4_000;
/** How far a device's clock may be off before it is said, in milliseconds. */
const offBy = 2 * 60_000;

/** The lines over each screen; none where all is well. */
export function Notices({ signedOut }: { signedOut: boolean }) {
  const said = [useWhyNot(), useRefused(), useWrongClock(), useNothingKept(), useVersion()].filter(Boolean);
  if (said.length === 0 || signedOut) return null;
  return (
    <aside aria-label="Notices" className="no-print flex max-h-[40vh] shrink-0 flex-col overflow-auto">
      {said}
    </aside>
  );
}

function Notice({ mark, children }: { mark: "warning" | "error" | "accent"; children: React.ReactNode }) {
  const border = { warning: "border-warning", error: "border-error", accent: "border-accent" }[mark];
  return (
    <p
      role="status"
      className={`border-l-4 ${border} bg-base-100 px-4 py-2.5 text-base-content not-first:border-t not-first:border-t-base-300`}
    >
      {children}
    </p>
  );
}

/** That the server is away, from when what is shown is, and what becomes of what is written. */
function useWhyNot() {
  const why = useWhyNotSent();
  const { reached, heard, since, why: said } = useReach();
  const [late, setLate] = useState(false);
  useEffect(() => {
    setLate(false);
    if (reached) return;
    const timer = window.setTimeout(() => setLate(true), Math.max(0, since + patience - Date.now()));
    return () => window.clearTimeout(timer);
  }, [reached, since]);
  if (why)
    return (
      <Notice key="why" mark="warning">
        <b>{why}</b>
      </Notice>
    );
  if (reached || !late) return null;
  return (
    <Notice key="why" mark="warning">
      <b>{said ?? "The server cannot be reached."}</b>{" "}
      {heard > 0
        ? `What is shown is from ${nearTime(new Date(heard + behindBy()).toISOString())}.`
        : "What is shown was kept on this device."}{" "}
      What you write at the stand is kept here and sent by itself.
    </Notice>
  );
}

/** What the server refused waits for a person. */
function useRefused() {
  const all = useUnsent();
  const refused = all.filter((k) => k.refused).length;
  const many = stopped(all).size;
  if (many === 0) return null;
  return (
    <Notice key="refused" mark="error">
      <b>
        {refused > 0
          ? refused === 1
            ? "One thing was not taken."
            : `${refused} things were not taken.`
          : "Something was kept for too long to be sent by itself."}
      </b>{" "}
      {refused === 1 && `${all.find((k) => k.refused)?.refused?.title} `}
      <Link to="/unsent" className="underline underline-offset-4">
        Look at both sides
      </Link>
    </Notice>
  );
}

function useWrongClock() {
  const demo = useSession().demo_time;
  useReach(); // what is known of the clock changes as the server is heard
  const off = behindBy();
  if (demo || Math.abs(off) <= offBy) return null;
  const minutes = Math.round(Math.abs(off) / 60_000);
  return (
    <Notice key="clock" mark="warning">
      This device's clock is {minutes} min {off > 0 ? "slow" : "fast"}. Times here are the shop's all the same; set the
      clock right, as without a connection it is what there is to go by.
    </Notice>
  );
}

/** What this device or this address cannot do. */
function useNothingKept() {
  const broken = useBroken();
  const [read, setRead] = useState(false);
  if (broken)
    return (
      <Notice key="kept" mark="warning">
        {broken}
      </Notice>
    );
  if (!onlineOnly() || read) return null;
  return (
    <Notice key="kept" mark="accent">
      This address works only with a connection: over plain http a browser starts no page without one. docs/running.md
      says how to give the shop a certificate.{" "}
      <Button kind="quiet" className="-my-3" onClick={() => setRead(true)}>
        Got it
      </Button>
    </Notice>
  );
}

/** A new version waits until nobody is in the middle of something. */
function useVersion() {
  const ready = useNewVersion();
  const client = useQueryClient();
  const [busy, setBusy] = useState<Awaited<ReturnType<typeof loadNewVersion>>>();
  if (!ready) return null;
  return (
    <Notice key="version" mark="accent">
      A new version is ready.{" "}
      <Button kind="quiet" className="-my-3" onClick={() => void loadNewVersion(client).then(setBusy)}>
        Load it
      </Button>
      {busy === "here" && " Finish the block or send what is typed first; it waits."}
      {busy === "elsewhere" && " Somebody is at something in another window of this device; it waits."}
    </Notice>
  );
}
