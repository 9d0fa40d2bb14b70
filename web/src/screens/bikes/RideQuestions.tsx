import { useState } from "react";
import { api, ask, type RideFile, type RideQuestion, type RideRow } from "../../api/client";
import { Button } from "../../ui/controls";
import { useDistance } from "../../ui/distance";
import { dayAndTime, digits } from "../../ui/format";
import { Choice, Failure } from "../../ui/parts";
import { useWrite } from "../../ui/sending";

/** What must be said of a ride file before any of it is kept. Until then nothing is written, and it can be gone on with. */
export function RideQuestions({ file, became }: { file: RideFile; became: (after: RideFile | null) => void }) {
  const [answers, setAnswers] = useState<Record<string, string>>({});
  const draft = file.draft ?? "";
  const answer = useWrite(
    (given: Record<string, string>) =>
      ask(api.POST("/ride-drafts/{draft}", { params: { path: { draft } }, body: { answers: given } })),
    [], // whoever asked shows what became of it, and asks again for the bike
    (after) => {
      setAnswers({});
      became(after);
    },
  );
  const drop = useWrite(
    () => ask(api.DELETE("/ride-drafts/{draft}", { params: { path: { draft } } })),
    [],
    () => became(null),
  );
  const open = file.questions.filter((q) => answers[q.id] === undefined).length;
  return (
    <div className="flex flex-col gap-3 pt-2">
      <p>Nothing of this file is kept until you have answered:</p>
      {file.questions.map((q) => (
        <Question
          key={q.id}
          question={q}
          value={answers[q.id]}
          choose={(v) => setAnswers((a) => ({ ...a, [q.id]: v }))}
        />
      ))}
      <div className="flex flex-wrap gap-2">
        <Button kind="main" disabled={open > 0 || answer.isPending} onClick={() => answer.mutate(answers)}>
          {answer.isPending ? "Reading…" : open > 0 ? `${open} to answer` : "Import rides"}
        </Button>
        <Button kind="quiet" disabled={drop.isPending} onClick={() => drop.mutate()}>
          Don't import this file
        </Button>
      </div>
      {answer.isError && <Failure error={answer.error} />}
      {drop.isError && <Failure error={drop.error} />}
    </div>
  );
}

const encodings: Record<string, string> = {
  "utf-8": "Unicode (UTF-8)",
  "windows-1252": "Western European (Windows)",
  "iso-8859-2": "Central European",
  "iso-8859-15": "Western European (ISO)",
  macintosh: "Old Macintosh",
};

const orders: Record<string, string> = { "day-first": "Day first", "month-first": "Month first" };

const overlaps: Record<string, string> = {
  other: "Keep the other",
  this: "Keep this one instead",
  both: "Keep both",
};

function Question(props: { question: RideQuestion; value: string | undefined; choose: (v: string) => void }) {
  const { question: q } = props;
  const words = { encoding: encodings, "date-order": orders, overlap: overlaps }[q.code];
  return (
    <div className="flex flex-col gap-1 border-l-4 border-accent pl-3" data-testid="ride-question">
      <Choice
        label={asks[q.code]}
        value={props.value}
        options={q.choices.map((value) => ({ value, words: words[value] ?? value }))}
        choose={props.choose}
      />
      {q.sample && <p className="font-mono text-note wrap-anywhere">{q.sample}</p>}
      {q.this && q.other && (
        <>
          <p>
            This: <Line ride={q.this} />
          </p>
          <p>
            The other{q.kept ? ", on record" : ", in this file"}: <Line ride={q.other} />
          </p>
        </>
      )}
    </div>
  );
}

const asks = {
  encoding: "Are the letters right?",
  "date-order": "What comes first in this date?",
  overlap: "Two rides at the same time",
} as const;

function Line({ ride }: { ride: RideRow }) {
  const d = useDistance();
  return (
    <>
      {dayAndTime(ride.started_at)}, <span className="font-mono">{digits(d.of(ride.km), 1)}</span> {d.unit}
    </>
  );
}
