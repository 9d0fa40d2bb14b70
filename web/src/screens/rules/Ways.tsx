import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Way } from "../../api/client";
import { keys } from "../../api/keys";
import { peopleOptions } from "../../api/queries";
import { useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Choice, Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";

const words: { value: Way; words: string }[] = [
  { value: "one-by-one", words: "Step by step" },
  { value: "blocks", words: "In blocks" },
];

/** How apprentices work a job at the stand, which a mechanic chooses for them. */
export function Ways() {
  const me = useSession().person;
  const client = useQueryClient();
  const apprentices = (useQuery(peopleOptions).data ?? []).filter((p) => p.role === "apprentice");
  const send = useWrite(
    ({ person, way }: { person: string; way: Way }, key) =>
      ask(
        api.PUT("/people/{person}/way", {
          params: { path: { person }, header: { "Idempotency-Key": key } },
          body: { way },
        }),
      ),
    [],
    () => void client.invalidateQueries({ queryKey: keys.people }),
  );
  const may = me.role === "owner" || me.role === "mechanic";
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Apprentices at the stand</Heading>
      <section className="card card-border bg-base-100 flex flex-col gap-3 p-4" aria-label="Apprentices at the stand">
        <h2 className="text-lg">Apprentices at the stand</h2>
        <p className="text-note text-quiet">
          Step by step shows one step at a time with all its words; in blocks, a whole go at a time. Mechanics choose
          for themselves, at the stand.
        </p>
        {!may && apprentices.length > 0 && <p>A mechanic sets this.</p>}
        <fieldset disabled={!may} className="flex min-w-0 flex-col gap-3">
          {apprentices.map((p) => (
            <Choice
              key={p.id}
              label={p.name}
              value={p.way}
              options={words}
              choose={(way) => send.mutate({ person: p.id, way })}
            />
          ))}
        </fieldset>
        {apprentices.length === 0 && <p>No apprentice works here yet: the shop's owner adds them under People.</p>}
        {send.isError && <Failure error={send.error} />}
      </section>
    </div>
  );
}
