import type { Intake, Offer } from "../../api/client";
import { offerQuestion } from "../../api/queries";
import { Asked, useAnswer } from "../../ui/answer";
import { Button } from "../../ui/controls";
import { whenWords } from "../../ui/format";
import { Tick } from "../../ui/parts";
import { now } from "../../ui/shop";
import { WhenField } from "../../ui/WhenField";
import { momentOf, typedWhen } from "../../ui/when";
import { pushWords } from "../floor/floor";
import { hours } from "../jobs/jobs";

type Props = {
  tag: string;
  /** What was seen so far; null until somebody looked at the bike, or where it is in the workshop already. */
  intake: Intake | null;
  promised: string;
  waiting: boolean;
  set: (part: { promised?: string; waiting?: boolean }) => void;
  fault: string | undefined;
};

/** For when the bike is promised: the earliest that the floor can keep, and what a tighter time would push. */
export function Promising({ tag, intake, promised, waiting, set, fault }: Props) {
  // A time that is over is for its field to say.
  const at = momentOf(promised);
  const over = promised !== "" && (at === undefined || Date.parse(at) < now());
  const { reports: _, wants: __, ...seen } = intake ?? {};
  const offer = useAnswer(offerQuestion(tag, over || !intake ? null : (seen as Intake))); // words change no plan
  return (
    <div className="flex flex-col gap-2">
      <WhenField
        label="Promised for"
        ask="moment"
        name="promised"
        value={promised}
        set={(text) => set({ promised: text })}
        fault={fault}
      />
      <Asked of={offer} words="Asking the day for room…">
        {(o, old) => (
          <Offered
            offer={o}
            old={old}
            asked={promised !== ""}
            take={(early) => set({ promised: typedWhen(early) })}
            taken={o.earliest_at !== undefined && promised === typedWhen(o.earliest_at)}
          />
        )}
      </Asked>
      <Tick on={waiting} set={(on) => set({ waiting: on })}>
        Customer is waiting
      </Tick>
    </div>
  );
}

function Offered(props: { offer: Offer; old: boolean; asked: boolean; take: (at: string) => void; taken: boolean }) {
  const { offer: o, old, asked, take, taken } = props;
  const early = o.earliest_at;
  return (
    <div className="text-note" role={old ? undefined : "status"} data-testid="offer">
      {early ? (
        <p>
          Earliest <b>{whenWords(early)}</b>: {hours(o.hands_min)} hands-on, {hours(o.ready_min)} with its waits
          {o.jobs > 0 &&
            `, beside ${o.jobs === 1 ? "one job" : `${o.jobs} jobs`} in the workshop, none of them later for it`}
          .
        </p>
      ) : (
        <p className="font-semibold text-error">The days ahead have no room for it with every other promise kept.</p>
      )}
      {early && !taken && (
        <Button className="mt-1" disabled={old} onClick={() => take(early)}>
          Promise that
        </Button>
      )}
      {asked && !taken && !old && (
        <p className={`mt-1 ${o.kept && o.pushed.length === 0 ? "" : "font-semibold text-error"}`}>
          {o.kept ? "The time you gave can be kept." : `The time you gave would be missed by ${hours(o.late_min)}.`}
          {o.pushed.length > 0 && ` It makes late: ${pushWords(o.pushed)}.`}
        </p>
      )}
    </div>
  );
}
