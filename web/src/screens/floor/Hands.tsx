import { useNavigate } from "react-router";
import { api, ask, type Floor, type FloorStint } from "../../api/client";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, Key } from "../../ui/controls";
import { clock, shortName } from "../../ui/format";
import { useCommands, useSession } from "../../ui/frame";
import { Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { Away } from "./Away";

type Hand = Floor["people"][number];

/** Hands free now: what each is at, and what comes next for them; who looks at it comes first. */
export function Hands({ floor, now }: { floor: Floor; now: number }) {
  const { person } = useSession();
  const hands = floor.people.toSorted((a, b) => Number(b.person.id === person.id) - Number(a.person.id === person.id));
  const navigate = useNavigate();
  const start = useWrite(
    (s: FloorStint, key: string) =>
      ask(
        api.POST("/jobs/{job}/steps/{step}", {
          params: { path: { job: s.job, step: s.step }, header: { "Idempotency-Key": key } },
          body: { action: "begin" },
        }),
      ).then(() => s.job),
    [{ topic: "job" }],
  );
  const mine = hands.find((h) => h.person.id === person.id);
  // What cannot begin yet is said with its time, and has no button: the server would only refuse it.
  const next = mine && !mine.at && mine.here && mine.next?.state === "ready" ? mine.next : undefined;
  const begin = (s: FloorStint) => {
    if (!start.isPending) start.mutate(s, { done: (job) => navigate(`/jobs/${job}`) });
  };
  useCommands(next ? { "1": { words: `Start “${next.block ?? next.title}”`, run: () => begin(next) } } : {});
  return (
    <section className="card card-border bg-base-100" aria-label="Next up">
      <h2 className="text-fine font-semibold text-quiet border-b border-base-300 px-4 py-2.5">Next up</h2>
      {start.isError && <Failure error={start.error} />}
      <ul className="md:max-lg:grid md:max-lg:grid-cols-2">
        {hands.map((h) => (
          <li key={h.person.id} className="border-b border-base-300 px-4 py-3 last:border-b-0" data-testid="hands">
            <HandOf hand={h} now={now} />
            {h === mine && next && (
              <Button
                kind="main"
                className="mt-2 w-full justify-center"
                disabled={start.isPending}
                onClick={() => begin(next)}
              >
                Start <Key>1</Key>
              </Button>
            )}
            {h.at && (
              <ButtonLink to={`/jobs/${h.at.job}`} kind={h === mine ? "main" : "plain"} className="mt-2 w-full">
                {h === mine ? "Continue" : "View"}
              </ButtonLink>
            )}
            <Away hand={h} />
          </li>
        ))}
      </ul>
      {hands.length === 0 && (
        <p className="px-4 py-3">Nobody is set up to work today: the settings say who does what.</p>
      )}
    </section>
  );
}

function HandOf({ hand: h, now }: { hand: Hand; now: number }) {
  const s = h.at ?? h.next;
  const name = <span className="min-w-0 truncate font-semibold">{shortName(h.person.name)}</span>;
  if (!s)
    return (
      <>
        {name}
        <p className="text-note text-quiet">{h.here ? "Nothing planned for them." : "Not here now."}</p>
      </>
    );
  const soFar = Math.max(0, Math.round((now - Date.parse(s.start)) / 60_000));
  const startsNow = Date.parse(s.start) <= now + 60_000;
  return (
    <>
      <span className="flex items-center justify-between gap-2">
        {name}
        <Tag tag={s.tag} size="small" />
      </span>
      <span className="mt-1 block text-lg leading-tight font-bold">{s.block ?? s.title}</span>
      <span className="mt-0.5 block text-note text-quiet">
        {h.at ? (
          <span className={s.state === "over" ? "font-semibold text-error" : ""}>
            {soFar} min so far of {s.minutes}
          </span>
        ) : (
          <>
            {!h.here && "not here now · "}
            {startsNow ? "now" : `at ${clock(s.start)}`}, {s.minutes} min
          </>
        )}
        {s.goes_on && ` · then ${s.goes_on.charAt(0).toLowerCase()}${s.goes_on.slice(1)}`}
      </span>
      {h.also.length > 0 && (
        <span className="block text-note text-error">
          also at {h.also.map((a) => `“${a.title}” of ${a.tag}`).join(", ")}
        </span>
      )}
    </>
  );
}
