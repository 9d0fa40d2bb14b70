import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Floor } from "../../api/client";
import { floorOptions } from "../../api/queries";
import { Button } from "../../ui/controls";
import { addDays, startOf, today } from "../../ui/days";
import { FormDialog } from "../../ui/FormDialog";
import { clock, shortName, weekdayAndTime } from "../../ui/format";
import { Choice, Failure } from "../../ui/parts";
import { faultAt, useWrite } from "../../ui/sending";
import { now } from "../../ui/shop";
import { WhenField } from "../../ui/WhenField";
import { readWhen } from "../../ui/when";

type Hand = Floor["people"][number];

/** When somebody is not here though their hours say so, and the way to say it. */
export function Away({ hand: h }: { hand: Hand }) {
  const [asked, setAsked] = useState(false);
  const client = useQueryClient();
  const drop = useWrite(
    (id: string, key) =>
      ask(api.DELETE("/absences/{absence}", { params: { path: { absence: id }, header: { "Idempotency-Key": key } } })),
    [],
    (floor) => client.setQueryData(floorOptions.queryKey, floor),
  );
  return (
    <div className="mt-1 flex flex-wrap items-center gap-x-3 text-note">
      {h.away.map((a) => (
        <span key={a.id} className="flex flex-wrap items-center gap-x-1" title={`said by ${a.noted_by}`}>
          away {Date.parse(a.from_at) > now() && `from ${whenOf(a.from_at)} `}until {whenOf(a.until_at)}
          <Button
            kind="quiet"
            may="dropAbsence"
            className="px-2"
            disabled={drop.isPending}
            onClick={() => drop.mutate(a.id)}
          >
            Here after all
          </Button>
        </span>
      ))}
      {h.away.length === 0 && (
        <Button
          kind="quiet"
          may="noteAbsence"
          className="-ml-4"
          aria-label={`Goes home or comes later: ${h.person.name}`}
          onClick={() => setAsked(true)}
        >
          {h.here ? "Goes home…" : "Comes later…"}
        </Button>
      )}
      {drop.isError && <Failure error={drop.error} />}
      {asked && <AwayDialog hand={h} close={() => setAsked(false)} />}
    </div>
  );
}

/** A time of today as its clock, else with its day; the end of a day as that. */
function whenOf(iso: string): string {
  const ms = Date.parse(iso);
  if (ms === startOf(addDays(today(), 1))) return "tomorrow";
  return ms > startOf(today()) && ms < startOf(addDays(today(), 1)) ? clock(iso) : weekdayAndTime(iso);
}

type How = "home" | "later" | "while";

function AwayDialog({ hand: h, close }: { hand: Hand; close: () => void }) {
  const [how, setHow] = useState<How>(h.here ? "home" : "later");
  const [from, setFrom] = useState("");
  const [until, setUntil] = useState("");
  const [unread, setUnread] = useState<{ from?: string; until?: string }>({});
  const client = useQueryClient();
  const send = useWrite(
    (body: { from_at: string; until_at: string }, key) =>
      ask(
        api.POST("/people/{person}/absences", {
          params: { path: { person: h.person.id }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    [],
    (floor) => {
      client.setQueryData(floorOptions.queryKey, floor);
      close();
    },
  );
  const read = (text: string) => {
    const at = readWhen(text, "moment");
    if (at.is === "moment") return { at: new Date(at.at).toISOString() };
    return { why: at.is === "none" ? at.why : at.is === "twice" ? "Which of the two?" : "Say when." };
  };
  const note = () => {
    const here = new Date(now()).toISOString();
    if (how === "home")
      return send.mutate({ from_at: here, until_at: new Date(startOf(addDays(today(), 1))).toISOString() });
    const begins = how === "while" ? read(from) : { at: here };
    const ends = read(until);
    setUnread({
      ...(begins.why ? { from: begins.why } : {}),
      ...(ends.why ? { until: ends.why } : {}),
    });
    if (begins.at && ends.at) send.mutate({ from_at: begins.at, until_at: ends.at });
  };
  return (
    <FormDialog
      title={`${shortName(h.person.name)} is not here`}
      action={how === "home" ? "Goes home now" : how === "later" ? "Comes later" : "Away for that while"}
      pending={send.isPending}
      error={send.error}
      close={close}
      send={note}
    >
      <Choice
        label="What happens"
        value={how}
        options={[
          { value: "home", words: "Goes home now" },
          { value: "later", words: "Comes later" },
          { value: "while", words: "Away for a while" },
        ]}
        choose={setHow}
      />
      {how === "while" && (
        <WhenField
          label="Goes at"
          ask="moment"
          name="away_from"
          value={from}
          set={setFrom}
          fault={unread.from ?? faultAt(send.error, "from_at")}
        />
      )}
      {how === "home" ? (
        <p className="text-quiet">For the rest of the day; their work is planned for others, or for another day.</p>
      ) : (
        <WhenField
          label="Is here at"
          ask="moment"
          name="away_until"
          value={until}
          set={setUntil}
          fault={unread.until ?? faultAt(send.error, "until_at")}
        />
      )}
    </FormDialog>
  );
}
