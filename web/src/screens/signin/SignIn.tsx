import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, lazy, Suspense, useEffect, useState } from "react";
import { api, ask, type Person, Problem } from "../../api/client";
import { peopleOptions, sessionOptions, setUpOptions } from "../../api/queries";
import { unseal } from "../../outbox/decided";
import { knownPeople, signedIn, workWithoutPIN } from "../../outbox/people";
import { unsentOf } from "../../outbox/queue";
import { useReach } from "../../outbox/reach";
import { Button, Input, Key } from "../../ui/controls";
import { tellName } from "../../ui/device";
import { Heading } from "../../ui/Heading";
import { Icon, PonyHead } from "../../ui/icons";
import { Failure, Waiting } from "../../ui/parts";
import { forgetRemembered } from "../../ui/remember";
import { sayError } from "../../ui/said";
import { useSingly } from "../../ui/singly";
import { tellTabs } from "../../ui/tabs";
import { doAllHeld } from "../../ui/undo";
import { roleWords } from "../../words/people";

const SetUp = lazy(async () => ({ default: (await import("../setup/SetUp")).SetUp }));

/** The first screen of a device: tap a name, type the PIN. Where nobody works yet, the set-up. */
export function SignIn({ away }: { away?: { error: unknown; again: () => void } | undefined }) {
  const { reached } = useReach();
  const people = useQuery({ ...peopleOptions, enabled: !away });
  const nobody = people.data?.length === 0;
  const setUp = useQuery({ ...setUpOptions, enabled: nobody });
  if (nobody && setUp.data?.open)
    return (
      <Suspense fallback={<div className="h-full bg-frame" />}>
        <SetUp />
      </Suspense>
    );
  return (
    <main className="grid min-h-full place-items-center overflow-auto bg-frame p-3 text-frame-ink">
      <div className="flex w-full max-w-md flex-col gap-4">
        <Heading className="flex items-center gap-3 text-2xl">
          <PonyHead size={40} /> Earnest Pony
        </Heading>
        <div className="card card-border bg-base-100 flex flex-col gap-3 p-5 text-base-content">
          {away && <Failure error={away.error} again={away.again} />}
          <h2 className="text-lg">Who are you?</h2>
          {!away ? <PeopleAndPin /> : !reached && <WithoutPIN />}
        </div>
      </div>
    </main>
  );
}

/** The names, and the PIN of the one tapped. */
export function PeopleAndPin({ without, done }: { without?: string; done?: () => void }) {
  const people = useQuery(peopleOptions);
  const [person, setPerson] = useState<Person | null>(null);
  const away = !useReach().reached;
  if (away && !person) return <WithoutPIN {...(without ? { without } : {})} {...(done ? { done } : {})} />;
  if (people.isPending) return <Waiting what="the names" />;
  if (people.data === undefined) return <Failure error={people.error} again={() => people.refetch()} />;
  if (person) return <Pin person={person} back={() => setPerson(null)} done={done} />;
  const names = people.data.filter((p) => p.id !== without);
  if (names.length === 0)
    return (
      <p>
        Nobody may sign in here. On the shop's machine: <code className="font-mono">pony person "Name"</code>
      </p>
    );
  return (
    <ul className="grid grid-cols-1 gap-2 min-[420px]:grid-cols-2">
      {names.map((p) => (
        <li key={p.id}>
          <Button
            onClick={() => setPerson(p)}
            className="w-full min-h-14 flex-col items-start justify-center gap-0 border-base-300 px-3 text-left font-normal"
          >
            <span className="font-semibold">{p.name}</span>
            <span className="text-fine text-quiet">{roleWords[p.role]}</span>
          </Button>
        </li>
      ))}
    </ul>
  );
}

/**
 * The people who may work here while there is no network: those who signed in here before. No PIN is asked, as a device that
 * could tell a right one from a wrong one could be made to tell it to a thief.
 */
function WithoutPIN({ without, done }: { without?: string; done?: () => void }) {
  const client = useQueryClient();
  const [known, setKnown] = useState<Person[]>();
  useEffect(() => void knownPeople().then(setKnown), []);
  if (!known) return null;
  const names = known.filter((p) => p.id !== without);
  if (names.length === 0)
    return (
      <p>
        {without
          ? "Nobody else signed in on this device before: without a connection only who did can work here."
          : "Nobody signed in on this device yet, so nothing of the shop is here. Sign in once with a connection; after that it works without one."}
      </p>
    );
  return (
    <>
      <p className="text-note text-quiet">
        No connection, so no PIN is asked now. What you write is sent once you sign in with your PIN.
      </p>
      <ul className="grid grid-cols-1 gap-2 min-[420px]:grid-cols-2">
        {names.map((p) => (
          <li key={p.id}>
            <Button
              onClick={() =>
                void workWithoutPIN(client, p.id).then((may) => {
                  if (may) {
                    forgetRemembered();
                    tellTabs();
                    done?.();
                  }
                })
              }
              className="w-full min-h-14 flex-col items-start justify-center gap-0 border-base-300 px-3 text-left font-normal"
            >
              <span className="font-semibold">{p.name}</span>
              <span className="text-fine text-quiet">{roleWords[p.role]}</span>
            </Button>
          </li>
        ))}
      </ul>
    </>
  );
}

function Pin({ person, back, done }: { person: Person; back: () => void; done: (() => void) | undefined }) {
  const client = useQueryClient();
  const { begin, end } = useSingly();
  const [pin, setPin] = useState("");
  // Until when no try is looked at, by this device's clock, and how many seconds that still is.
  const [lockedUntil, setLockedUntil] = useState(0);
  const [wait, setWait] = useState(0);
  const password = person.role === "owner";
  const signIn = useMutation({
    mutationFn: async () => {
      await doAllHeld(); // it is of whoever was here until now
      const body = { person_id: person.id, pin, device: tellName(), unsent: unsentOf() };
      return ask(api.PUT("/session", { body }));
    },
    onSuccess: (session) => {
      client.setQueryData(sessionOptions.queryKey, session);
      signedIn(session);
      void unseal(person.id);
      tellTabs();
      forgetRemembered();
      void client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "session" });
      done?.();
    },
    onError: (e) => {
      setPin("");
      if (e instanceof Problem) setLockedUntil(Date.now() + 1000 * (e.body.retry_after_seconds ?? 0));
    },
    onSettled: () => end("sign in"),
  });
  useEffect(() => {
    const look = () => setWait(Math.max(0, Math.ceil((lockedUntil - Date.now()) / 1000)));
    look();
    const tick = window.setInterval(look, 250); // a tablet that slept meanwhile sees at once that it is over
    return () => window.clearInterval(tick);
  }, [lockedUntil]);

  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (pin && wait === 0 && begin("sign in")) signIn.mutate(); // a wrong PIN sent twice counts twice
  };
  const type = (digit: string) => setPin((p) => (p.length < 8 ? p + digit : p));
  return (
    <form onSubmit={submit} className="flex flex-col gap-3">
      <Button onClick={back} kind="quiet" className="gap-1 self-start px-0">
        <Icon name="back" size={20} /> {person.name}
      </Button>
      <Input
        autoFocus
        type="password"
        inputMode={password ? "text" : "numeric"}
        autoComplete="off"
        aria-label={password ? "Password" : "PIN"}
        placeholder={password ? "Password" : "PIN"}
        className="text-center font-mono text-3xl tracking-[0.3em]"
        value={pin}
        maxLength={200}
        onChange={(e) => setPin(password ? e.target.value : e.target.value.replace(/\D/g, "").slice(0, 8))}
      />
      {signIn.isError && (
        <p role="alert" className="font-semibold text-error">
          {wait > 0 ? `Too many wrong PINs. Next try in ${wait} s.` : sayError(signIn.error)}
        </p>
      )}
      {!password && (
        <div className="grid grid-cols-3 gap-1.5">
          {["1", "2", "3", "4", "5", "6", "7", "8", "9"].map((d) => (
            <PadKey key={d} press={() => type(d)}>
              {d}
            </PadKey>
          ))}
          <PadKey press={() => setPin("")}>
            <span className="font-sans text-base">Clear</span>
          </PadKey>
          <PadKey press={() => type("0")}>0</PadKey>
          <PadKey press={() => setPin((p) => p.slice(0, -1))} label="Erase">
            <Icon name="erase" />
          </PadKey>
        </div>
      )}
      <Button type="submit" kind="main" disabled={!pin || wait > 0 || signIn.isPending}>
        Sign in <Key>Enter</Key>
      </Button>
    </form>
  );
}

function PadKey({ press, label, children }: { press: () => void; label?: string; children: React.ReactNode }) {
  return (
    <Button onClick={press} aria-label={label} className="border-base-300 font-mono text-xl">
      {children}
    </Button>
  );
}
