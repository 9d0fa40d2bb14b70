import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type OwnerReport, type OwnerPage as Page } from "../../api/client";
import { ownerPageOptions } from "../../api/queries";
import { Button, Input, PressButton, TextArea } from "../../ui/controls";
import { distanceIn } from "../../ui/distance";
import { Fetched } from "../../ui/Fetched";
import { about, shortDay } from "../../ui/format";
import { Heading } from "../../ui/Heading";
import { Plate } from "../../ui/Plate";
import { Failure, Field } from "../../ui/parts";
import { faultAt, namesFields, useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { eventName } from "../../words/due";
import { comingLine } from "../due/due";
import { aftercare } from "../jobs/customer";

/** A bike as its owner sees it: phone first, in plain words, for whoever has the link. */
export function OwnerPage({ token }: { token: string }) {
  const page = useQuery(ownerPageOptions(token));
  return (
    <main className="h-full overflow-auto bg-base-200 text-base-content">
      <Fetched query={page} what="the bike">
        {(p) => <Shown page={p} token={token} />}
      </Fetched>
    </main>
  );
}

function Shown({ page: p, token }: { page: Page; token: string }) {
  const last = p.done[0];
  return (
    <div className="mx-auto flex max-w-[560px] flex-col gap-4 p-4 wrap-anywhere print:max-w-none">
      <header className="flex flex-wrap items-center justify-between gap-3">
        <div className="min-w-0">
          <p className="text-fine font-semibold text-quiet">{p.shop}</p>
          <Heading className="text-2xl leading-tight first-letter:uppercase">{p.bike}</Heading>
        </div>
        <Tag tag={p.tag} size="middle" />
      </header>
      {p.in_workshop && (
        <p className="card card-border bg-base-100 border-l-4 border-l-accent px-4 py-3 text-lg">
          It is in the workshop now.
        </p>
      )}
      <Worn page={p} />
      <section className="card card-border bg-base-100 p-4" aria-label="What comes next">
        <h2 className="text-lg">What comes next</h2>
        {p.next.length === 0 ? (
          <p className="text-quiet">Nothing is planned.</p>
        ) : (
          <ul>
            {p.next.map((t) => (
              <li key={t.what} className="flex items-center gap-3 border-t border-base-300 py-2 first:border-t-0">
                <Plate state={t.state} size={18} />
                <span className="flex min-w-0 grow flex-wrap items-baseline justify-between gap-x-3">
                  <span className="inline-block first-letter:uppercase">{t.what}</span>
                  <span className="font-mono text-note whitespace-nowrap text-quiet">{comingLine(t, p.day)}</span>
                </span>
              </li>
            ))}
          </ul>
        )}
      </section>
      <section className="card card-border bg-base-100 p-4" aria-label="What was done">
        <h2 className="text-lg">What was done</h2>
        {p.done.length === 0 ? (
          <p className="text-quiet">No visit is on record yet.</p>
        ) : (
          p.done.map((j) => (
            <div key={j.closed_at} className="border-t border-base-300 py-2 first-of-type:border-t-0">
              <p className="font-semibold">{shortDay(j.closed_at)}</p>
              <ul className="list-disc pl-5">
                {j.told.map((d) => (
                  <li key={d}>{d}</li>
                ))}
                {j.parts.length > 0 && <li>Parts: {j.parts.join(", ")}.</li>}
              </ul>
            </div>
          ))
        )}
      </section>
      <section className="card card-border bg-base-100 p-4" aria-label="After each ride">
        <h2 className="text-lg">After each ride</h2>
        {runsOn[p.lubricant ?? ""] && <p>It runs on {runsOn[p.lubricant ?? ""]}.</p>}
        <ul className="list-disc pl-5">
          {aftercare(lubricantOf(last?.lubricant_next ?? p.lubricant)).map((a) => (
            <li key={a}>{a}</li>
          ))}
        </ul>
      </section>
      <Tell page={p} token={token} />
      <p className="pb-6 text-fine text-quiet print:hidden">
        Whoever has this address sees this page. It names nobody. The workshop can withdraw it.
      </p>
    </div>
  );
}

const runsOn: Record<string, string> = {
  "wet-oil": "wet oil",
  "dry-oil": "dry oil",
  "all-weather": "all-weather oil",
  "drip-wax": "drip wax",
  "immersion-wax": "immersion wax",
};

const lubricantOf = (s: string | undefined) =>
  s === "drip-wax" || s === "immersion-wax" ? (s as "drip-wax" | "immersion-wax") : "oil";

const wornWords = {
  ok: "When it was measured, the chain was fine.",
  watch: "When it was measured, the chain was wearing: it is being watched.",
  unsure: "The chain is near its limit: it will be measured again soon.",
  replace: "The chain is worn out: have it replaced before it wears the cassette.",
  "replace-together": "The chain is badly worn: it is replaced together with the cassette.",
} as const;

function Worn({ page: p }: { page: Page }) {
  const d = distanceIn(p.distance_unit);
  return (
    <section className="card card-border bg-base-100 p-4" aria-label="How worn it is">
      {p.chain ? (
        <div className="flex items-start gap-3">
          <span className="mt-1.5">
            <Plate state={p.chain.state} size={28} />
          </span>
          <div>
            <p className="text-xl font-semibold" data-testid="worn">
              {wornWords[p.chain.verdict]}
            </p>
            <p className="text-note text-quiet">Measured {shortDay(p.chain.taken_at)}.</p>
          </div>
        </div>
      ) : (
        <p className="text-xl font-semibold" data-testid="worn">
          The chain was not measured yet.
        </p>
      )}
      {p.left_km && p.left_km.mid > 0 && (
        <p className="mt-2">
          It should last about <b>{about(d.of(p.left_km.mid))}</b> {d.unit} more
          {p.left_km.low > 0
            ? `; it could be as soon as ${about(d.of(p.left_km.low))}`
            : "; it could be at its limit now"}
          .{!p.measured && " A guess from how it is kept."}
        </p>
      )}
    </section>
  );
}

const nothing = { km: "", event: "", note: "" };

/** The odometer, something that happened, a few words: for the shop to take into its record. */
function Tell({ page: p, token }: { page: Page; token: string }) {
  const d = distanceIn(p.distance_unit);
  const client = useQueryClient();
  const [{ km, event, note }, setTyped] = useState(nothing);
  const set = (part: Partial<typeof nothing>) => setTyped((typed) => ({ ...typed, ...part }));
  const [wrong, setWrong] = useState("");
  const send = useWrite(
    (body: OwnerReport) => ask(api.POST("/owner-page/{token}", { params: { path: { token } }, body })),
    [],
    (after) => {
      client.setQueryData(ownerPageOptions(token).queryKey, after);
      setTyped(nothing);
    },
  );
  // Read by hand: what reads the shop's forms weighs more than this page may.
  const submit = () => {
    const ridden = km.trim() === "" ? undefined : d.typed(km);
    const far = km.trim() !== "" && ridden === undefined;
    setWrong(far ? d.wrong : "");
    if (far) return;
    send.mutate({
      ...(ridden === undefined ? {} : { km: ridden }),
      ...(event ? { event } : {}),
      ...(note.trim() ? { note: note.trim() } : {}),
    });
  };
  return (
    <form
      className="card card-border bg-base-100 flex flex-col gap-4 p-4 print:hidden"
      aria-label="Tell the workshop"
      onSubmit={(e) => {
        e.preventDefault();
        submit();
      }}
    >
      <h2 className="text-lg">Tell the workshop</h2>
      <fieldset className="flex flex-wrap gap-1.5">
        <legend className="fieldset-legend">Report rain, noise, skipping …</legend>
        {p.reportable.map((e) => (
          <PressButton key={e} on={e === event} onClick={() => set({ event: e === event ? "" : e })}>
            {eventName(e)}
          </PressButton>
        ))}
      </fieldset>
      <Field label="The odometer shows" unit={d.unit} fault={wrong || faultAt(send.error, "km")}>
        {(a) => (
          <Input
            {...a}
            name="odometer"
            inputMode="decimal"
            maxLength={10}
            value={km}
            onChange={(e) => set({ km: e.target.value })}
          />
        )}
      </Field>
      <Field label="In your words" fault={faultAt(send.error, "note")}>
        {(a) => (
          <TextArea
            {...a}
            name="words"
            rows={2}
            maxLength={500}
            value={note}
            onChange={(e) => set({ note: e.target.value })}
          />
        )}
      </Field>
      {send.isError && !namesFields(send.error) && <Failure error={send.error} />}
      {send.isPending && send.failureReason && (
        <p role="status" className="border-l-4 border-warning pl-3">
          There is no connection. It is sent by itself when there is one: keep this page open.
        </p>
      )}
      {send.isSuccess && (
        <p role="status" className="border-l-4 border-success pl-3">
          Told. The workshop looks at it before it counts.
        </p>
      )}
      <Button type="submit" kind="main" disabled={send.isPending}>
        Tell the workshop
      </Button>
    </form>
  );
}
