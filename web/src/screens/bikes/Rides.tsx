import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type DragEvent, useRef, useState } from "react";
import { api, ask, idempotencyKey, type RideFile, withKey } from "../../api/client";
import { refresh } from "../../api/live";
import { rideDraftsOptions } from "../../api/queries";
import { Button, FileInput } from "../../ui/controls";
import { useDistance } from "../../ui/distance";
import { digits, shortDay } from "../../ui/format";
import { sayError } from "../../ui/said";
import { inShopUnits, rain } from "../../ui/units";
import { RideQuestions } from "./RideQuestions";

type Outcome = { id: string } & (RideFile | { name: string; failed: string });

/** Takes ride files, one or many, dropped or chosen: good ones are kept, and what is wrong in the others is named. */
export function Rides({ tag }: { tag: string }) {
  const client = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [busy, setBusy] = useState("");
  const [outcomes, setOutcomes] = useState<Outcome[]>([]);
  const read = async (files: File[]) => {
    setOutcomes([]);
    for (const file of files) {
      setBusy(file.name);
      const id = idempotencyKey();
      let one: Outcome;
      try {
        const became = await ask(
          withKey(id, () =>
            api.POST("/bikes/{tag}/rides", {
              params: { path: { tag }, query: { name: file.name } },
              headers: { "Content-Type": "application/octet-stream" },
              body: file as unknown as string, // the contract's word for bytes
              bodySerializer: (b) => b,
            }),
          ),
        );
        one = { id, ...became };
      } catch (e) {
        one = { id, name: file.name, failed: sayError(e) };
      }
      setOutcomes((all) => [...all, one]);
    }
    setBusy("");
    void refresh(client, { topic: "bike", tag });
  };
  const became = (id: string, after: RideFile | null) => {
    setOutcomes((all) => all.flatMap((o) => (o.id !== id ? [o] : after ? [{ id, ...after }] : [])));
    void refresh(client, { topic: "bike", tag });
  };
  // Files that somebody left with open questions, here or on another device.
  const open = useQuery(rideDraftsOptions(tag)).data ?? [];
  const shown = new Set(outcomes.map((o) => ("failed" in o ? "" : o.draft)));
  const resume = async (draft: string) => {
    const after = await ask(
      api.POST("/ride-drafts/{draft}", { params: { path: { draft } }, body: { answers: {} } }),
    ).catch((e: unknown) => ({ name: "", failed: sayError(e) }));
    setOutcomes((all) => [...all, { id: idempotencyKey(), ...after }]);
  };
  const drop = (e: DragEvent) => {
    e.preventDefault();
    setOver(false);
    void read([...e.dataTransfer.files]);
  };
  return (
    <section
      className={`card card-border bg-base-100 flex flex-col gap-2 p-4 ${over ? "border-2 border-accent" : ""}`}
      aria-label="Rides"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <h2 className="text-lg">Rides</h2>
      <p className="text-note text-quiet">
        Drop GPX, TCX, FIT or CSV files here. Each ride counts by the weather of its day (simulated), once.
      </p>
      <Button className="self-start" disabled={busy !== ""} onClick={() => input.current?.click()}>
        {busy ? `Reading ${busy}…` : "Choose ride files"}
      </Button>
      <FileInput
        ref={input}
        name="rides"
        multiple
        accept=".gpx,.tcx,.fit,.csv,.txt"
        aria-label="Ride files"
        onChange={(e) => {
          void read([...(e.target.files ?? [])]);
          e.target.value = "";
        }}
      />
      {open
        .filter((d) => !shown.has(d.id))
        .map((d) => (
          <p key={d.id} className="flex flex-wrap items-center gap-2 text-note" data-testid="ride-draft">
            <span className="grow wrap-anywhere">
              <b>{d.name}</b> waits for answers since {shortDay(d.created_at)}.
            </span>
            <Button onClick={() => void resume(d.id)}>Continue</Button>
          </p>
        ))}
      {outcomes.length > 0 && (
        <ul aria-live="polite">
          {outcomes.map((o) => (
            <li key={o.id} data-testid="ride-file" className="border-t border-base-300 py-2 text-note wrap-anywhere">
              <b>{o.name}</b>
              {"failed" in o ? (
                <p className="font-semibold text-error">{o.failed}</p>
              ) : o.draft ? (
                <RideQuestions file={o} became={(after) => became(o.id, after)} />
              ) : (
                <Became file={o} />
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** What became of a file: what was kept, what was there, what was left out, and what is wrong. */
function Became({ file }: { file: RideFile }) {
  const d = useDistance();
  return (
    <>
      {file.kept.map((r) => (
        <p key={r.started_at}>
          Kept: {shortDay(r.started_at)}, <span className="font-mono">{digits(d.of(r.km), 1)}</span> {d.unit}
          {r.rain_mm !== undefined && r.rain_mm > 0 && `, ${rain(r.rain_mm)} of rain`}
          {r.jumps ? `, ${r.jumps} ${r.jumps === 1 ? "jump" : "jumps"} dropped` : ""}
        </p>
      ))}
      {file.repeated.map((r) => (
        <p key={r.started_at} className="text-quiet">
          There already: {shortDay(r.started_at)}, {digits(d.of(r.km), 1)} {d.unit}
        </p>
      ))}
      {file.left.map((r) => (
        <p key={r.started_at} className="text-quiet">
          Skipped: {shortDay(r.started_at)}, {digits(d.of(r.km), 1)} {d.unit}
        </p>
      ))}
      {file.wrong.map((w) => (
        <p key={`${w.line ?? 0} ${w.message}`} className="font-semibold text-error">
          {w.line ? `Line ${w.line}: ` : ""}
          {inShopUnits(w.message)}
        </p>
      ))}
      {file.wrong_count > file.wrong.length && (
        <p className="font-semibold text-error">… and {file.wrong_count - file.wrong.length} more.</p>
      )}
    </>
  );
}
