import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, type FirstShop, Problem } from "../../api/client";
import { peopleOptions, sessionOptions, setUpOptions } from "../../api/queries";
import { Button, Input, Key } from "../../ui/controls";
import { tellName } from "../../ui/device";
import { FileButton } from "../../ui/FileButton";
import { Heading } from "../../ui/Heading";
import { PonyHead } from "../../ui/icons";
import { forget, useKept } from "../../ui/kept";
import { Choice, Failure, Field } from "../../ui/parts";
import { faultAt, namesFields } from "../../ui/sending";
import { useSingly } from "../../ui/singly";
import { LocaleField, ZoneField } from "../rules/PlaceFields";
import { currencyOf, locales, unitsOf } from "../rules/where";

type Way = "code" | "choose" | "new" | "backup";

/** What a browser shows of a server where there is no shop yet: whoever knows the code that was printed makes one. */
export function SetUp() {
  const navigate = useNavigate();
  // Wherever somebody came in: its steps go on from there once the shop has an owner.
  useEffect(() => void navigate("/set-up", { replace: true }), [navigate]);
  const [code, setCode] = useState("");
  const [way, setWay] = useState<Way>("code");
  return (
    <main className="min-h-full overflow-auto bg-frame p-3 text-frame-ink">
      <div className="mx-auto flex w-full max-w-2xl flex-col gap-4 py-6">
        <Heading className="flex items-center gap-3 text-2xl">
          <PonyHead size={40} /> Earnest Pony
        </Heading>
        <div className="card card-border bg-base-100 flex flex-col gap-4 p-5 text-base-content">
          {way === "code" && <Code code={code} set={setCode} next={() => setWay("choose")} />}
          {way === "choose" && <ChooseWay choose={setWay} />}
          {way === "new" && <NewShop code={code} codeWrong={() => setWay("code")} back={() => setWay("choose")} />}
          {way === "backup" && <FromBackup code={code} back={() => setWay("choose")} />}
        </div>
      </div>
    </main>
  );
}

/** Goes on to signing in where somebody else set the shop up meanwhile. */
function useClosed() {
  const client = useQueryClient();
  return (e: unknown) => {
    if (!(e instanceof Problem) || e.body.code !== "set-up-closed") return;
    void client.invalidateQueries({ queryKey: peopleOptions.queryKey });
    void client.invalidateQueries({ queryKey: setUpOptions.queryKey });
  };
}

function Code({ code, set, next }: { code: string; set: (code: string) => void; next: () => void }) {
  const closed = useClosed();
  const { begin, end } = useSingly();
  const send = useMutation({
    mutationFn: () => ask(api.POST("/setup/code", { body: { code } })),
    onSuccess: next,
    onError: closed,
    onSettled: () => end("code"), // a wrong one sent twice counts twice
  });
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(e: FormEvent) => {
        e.preventDefault();
        if (code.trim() && begin("code")) send.mutate();
      }}
    >
      <h2 className="text-xl">There is no shop here yet</h2>
      <p>
        A code was printed where the program was started. Type it here to set the shop up. It takes about ten minutes,
        and can be left and continued later.
      </p>
      <Field label="Code" fault={faultAt(send.error, "code")}>
        {(a) => (
          <Input
            {...a}
            name="code"
            autoFocus
            autoComplete="off"
            autoCapitalize="characters"
            spellCheck={false}
            className="font-mono text-2xl tracking-widest uppercase"
            maxLength={20}
            value={code}
            onChange={(e) => set(e.target.value)}
          />
        )}
      </Field>
      {send.isError && !namesFields(send.error) && <Failure error={send.error} />}
      <Button type="submit" kind="main" className="self-start" disabled={!code.trim() || send.isPending}>
        Continue <Key>Enter</Key>
      </Button>
    </form>
  );
}

function ChooseWay({ choose }: { choose: (way: Way) => void }) {
  const way = (to: Way, name: string, what: string) => (
    <Button onClick={() => choose(to)} className="h-auto flex-col items-start gap-0 p-4 text-left font-normal">
      <span className="text-lg font-semibold">{name}</span>
      <span className="text-quiet">{what}</span>
    </Button>
  );
  return (
    <>
      <h2 className="text-xl">How does the shop begin?</h2>
      {way("new", "As a new shop", "Its name, where it is, who owns it; then how it works, step by step")}
      {way("backup", "From a backup", "Everything as it was in a file that pony backup wrote")}
    </>
  );
}

type Facts = Omit<FirstShop, "code" | "owner" | "device"> & { owner: string };

const slot = "pony.draft.set-up";

const isFacts = (v: unknown): v is Facts =>
  typeof v === "object" &&
  v !== null &&
  Object.keys(begun()).every((k) => typeof (v as Facts)[k as keyof Facts] === "string");

/** A shop as this device's place and language suggest it. */
function begun(): Facts {
  const { timeZone, locale } = new Intl.DateTimeFormat().resolvedOptions();
  const here = locales.includes(locale)
    ? locale
    : (locales.find((l) => l.split("-")[0] === locale.split("-")[0]) ?? "en-GB");
  return { name: "", owner: "", time_zone: timeZone, locale: here, currency: currencyOf(here), ...unitsOf(here) };
}

function NewShop({ code, codeWrong, back }: { code: string; codeWrong: () => void; back: () => void }) {
  const client = useQueryClient();
  const closed = useClosed();
  const { begin, end } = useSingly();
  const [shop, setShop] = useKept<Facts>(slot, begun(), isFacts);
  const [secret, setSecret] = useState("");
  const [again, setAgain] = useState("");
  const [differ, setDiffer] = useState(false);
  const set = (part: Partial<Facts>) => setShop((s) => ({ ...s, ...part }));
  const send = useMutation({
    mutationFn: () => {
      const { owner, ...facts } = shop;
      return ask(
        api.POST("/setup", {
          body: {
            ...facts,
            currency: shop.currency.trim().toUpperCase(),
            code,
            owner: { name: owner, secret },
            device: tellName(),
          },
        }),
      );
    },
    onSuccess: (session) => {
      forget(slot);
      client.setQueryData(sessionOptions.queryKey, session);
      void client.invalidateQueries();
    },
    onError: (e) => {
      closed(e);
      if (faultAt(e, "code")) codeWrong();
    },
    onSettled: () => end("set up"),
  });
  const fault = (path: string) => faultAt(send.error, path);
  const part = (title: string, children: ReactNode) => (
    <fieldset className="flex min-w-0 flex-col gap-3">
      <legend className="mb-2 text-lg font-semibold">{title}</legend>
      {children}
    </fieldset>
  );
  return (
    <form
      className="flex flex-col gap-6"
      noValidate
      onSubmit={(e: FormEvent) => {
        e.preventDefault();
        setDiffer(secret !== again);
        if (secret === again && begin("set up")) send.mutate();
      }}
    >
      {part(
        "The shop",
        <>
          <Field label="Its name" hint="As it stands on tickets and messages." fault={fault("name")}>
            {(a) => (
              <Input
                {...a}
                name="shop"
                autoFocus
                maxLength={120}
                value={shop.name}
                onChange={(e) => set({ name: e.target.value })}
              />
            )}
          </Field>
          <div className="grid gap-3 sm:grid-cols-2">
            <LocaleField
              value={shop.locale}
              set={(locale) => set({ locale, currency: currencyOf(locale), ...unitsOf(locale) })}
              fault={fault("locale")}
            />
            <ZoneField value={shop.time_zone} set={(time_zone) => set({ time_zone })} fault={fault("time_zone")} />
            <Field label="Currency" hint="Three letters, such as EUR." fault={fault("currency")}>
              {(a) => (
                <Input
                  {...a}
                  name="currency"
                  maxLength={3}
                  value={shop.currency}
                  onChange={(e) => set({ currency: e.target.value })}
                />
              )}
            </Field>
          </div>
          <div className="flex flex-wrap gap-x-8 gap-y-3">
            <Choice
              label="Lengths"
              value={shop.length_unit}
              options={[
                { value: "mm", words: "Millimetres" },
                { value: "in", words: "Inches" },
              ]}
              choose={(length_unit) => set({ length_unit })}
            />
            <Choice
              label="Distances"
              value={shop.distance_unit}
              options={[
                { value: "km", words: "Kilometres" },
                { value: "mi", words: "Miles" },
              ]}
              choose={(distance_unit) => set({ distance_unit })}
            />
          </div>
        </>,
      )}
      {part(
        "You",
        <>
          <p className="text-note text-quiet">
            Whoever owns the shop may do everything here: set prices, add people, take everything out. That is why it is
            a password, and not a PIN.
          </p>
          <Field label="Your name" fault={fault("owner.name")}>
            {(a) => (
              <Input
                {...a}
                name="owner"
                autoComplete="name"
                maxLength={80}
                value={shop.owner}
                onChange={(e) => set({ owner: e.target.value })}
              />
            )}
          </Field>
          <div className="flex flex-col gap-3">
            <Field label="Your password" hint="At least 10 characters." fault={fault("owner.secret")}>
              {(a) => (
                <Input
                  {...a}
                  name="password"
                  type="password"
                  autoComplete="new-password"
                  maxLength={200}
                  value={secret}
                  onChange={(e) => setSecret(e.target.value)}
                />
              )}
            </Field>
            <Field label="Once more" fault={differ && secret !== again ? "The two are not the same." : undefined}>
              {(a) => (
                <Input
                  {...a}
                  name="again"
                  type="password"
                  autoComplete="new-password"
                  maxLength={200}
                  value={again}
                  onChange={(e) => setAgain(e.target.value)}
                />
              )}
            </Field>
          </div>
        </>,
      )}
      {send.isError && !namesFields(send.error) && <Failure error={send.error} />}
      <div className="flex flex-wrap gap-3">
        <Button type="submit" kind="main" disabled={send.isPending}>
          Set up the shop <Key>Enter</Key>
        </Button>
        <Button kind="quiet" onClick={back}>
          Back
        </Button>
      </div>
    </form>
  );
}

function FromBackup({ code, back }: { code: string; back: () => void }) {
  const client = useQueryClient();
  const closed = useClosed();
  const { begin, end } = useSingly();
  const [file, setFile] = useState<File | null>(null);
  const send = useMutation({
    mutationFn: (from: File) =>
      ask(
        api.POST("/setup/restore", {
          params: { query: { code } },
          headers: { "Content-Type": "application/octet-stream" },
          body: from as unknown as string, // the contract's word for bytes
          bodySerializer: (b: unknown) => b as string,
        }),
      ),
    onError: closed,
    onSettled: () => end("restore"),
  });
  if (send.isSuccess)
    return (
      <>
        <h2 className="text-xl">The shop is back</h2>
        <p>
          {send.data.bikes} {send.data.bikes === 1 ? "bike" : "bikes"} and {send.data.entries} entries of the history.
          Its people sign in as they did.
        </p>
        <Button kind="main" className="self-start" onClick={() => void client.invalidateQueries()}>
          Sign in
        </Button>
      </>
    );
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(e: FormEvent) => {
        e.preventDefault();
        if (file && begin("restore")) send.mutate(file);
      }}
    >
      <h2 className="text-xl">From a backup</h2>
      <p>The file is read whole before anything is written. A large one takes some minutes; keep this page open.</p>
      <FileButton words={file ? file.name : "Choose the file"} name="backup" accept=".pony,.zip" choose={setFile} />
      {send.isError && <Failure error={send.error} />}
      <div className="flex flex-wrap gap-3">
        <Button type="submit" kind="main" disabled={!file || send.isPending}>
          {send.isPending ? "Reading it in…" : "Read it in"}
        </Button>
        <Button kind="quiet" disabled={send.isPending} onClick={back}>
          Back
        </Button>
      </div>
    </form>
  );
}
