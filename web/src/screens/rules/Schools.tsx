import { Link } from "react-router";
import type { RulesPreview, RulesView, School } from "../../api/client";
import { previewQuestion } from "../../api/queries";
import { Asked, useAnswer } from "../../ui/answer";
import { Button } from "../../ui/controls";
import { percent } from "../../ui/format";
import { Tag } from "../../ui/Tag";
import { bikeName } from "../../words/bikes";
import { classWords, schoolWords, verdictWords } from "../../words/wear";
import { type Draft, judgedBy } from "./draft";

type Props = { view: RulesView; draft: Draft; choose: (s: School) => void };

/** The schools side by side, each with its lines and with what it would change in this shop. */
export function Schools({ view, draft, choose }: Props) {
  return (
    <>
      <div className="grid gap-2 sm:grid-cols-2 xl:grid-cols-4">
        {view.schools.map((s) => (
          <SchoolCard key={s.school} lines={s} view={view} draft={draft} choose={choose} />
        ))}
      </div>
      <Changes view={view} draft={draft} />
    </>
  );
}

function SchoolCard({ lines, view, draft, choose }: Props & { lines: RulesView["schools"][number] }) {
  const preview = useAnswer(previewQuestion(judgedBy(view.rules, draft, lines.school)));
  const words = schoolWords[lines.school];
  const chosen = draft.wear_school === lines.school;
  const kept = view.rules.wear_school === lines.school;
  return (
    <Button
      aria-pressed={chosen}
      onClick={() => choose(lines.school)}
      kind="cell"
      className={`card flex flex-col gap-1.5 border-2 p-3 text-left ${chosen ? "border-base-content bg-base-200" : "border-base-300 bg-base-100 enabled:hover:bg-base-200"}`}
    >
      <span className="flex items-baseline justify-between gap-2 text-base font-semibold">
        {words.name}
        {kept && <span className="text-fine font-normal text-quiet">in force</span>}
      </span>
      <span className="grow text-note leading-snug text-quiet">{words.why}</span>
      <span className="grid grid-cols-[1fr_auto] gap-x-3 text-note">
        <span className="text-fine text-quiet">speeds</span>
        <span className="text-fine text-quiet">replace / both, %</span>
        {lines.classes.map((c) => (
          <span key={c.class} className="contents">
            <span>{classWords[c.class].short}</span>
            <span className="text-right font-mono">
              {percent(c.limit_pct)} / {percent(c.together_pct)}
            </span>
          </span>
        ))}
      </span>
      <span className="min-h-[20px] text-note font-semibold">
        {!kept && preview.answer && preview.answer.judged > 0 && changesWords(preview.answer.total)}
      </span>
    </Button>
  );
}

const changesWords = (n: number) =>
  n === 0 ? "No verdict would change" : n === 1 ? "One verdict would change" : `${n} verdicts would change`;

/** The verdicts that the draft would change, one bike a line. */
function Changes({ view, draft }: { view: RulesView; draft: Draft }) {
  const preview = useAnswer(previewQuestion(judgedBy(view.rules, draft, draft.wear_school)));
  return <Asked of={preview}>{(p) => <ChangedBy preview={p} />}</Asked>;
}

function ChangedBy({ preview: p }: { preview: RulesPreview }) {
  if (p.total === 0 && p.refused === 0) return null;
  return (
    <section aria-label="What would change" className="rounded-field border border-base-300" data-testid="changes">
      <h3 className="px-3 pt-2 font-semibold">
        {changesWords(p.total)} of {p.judged} when this is saved
      </h3>
      {p.refused > 0 && (
        <p className="px-3 text-note">
          {p.refused === 1 ? "One bike carries" : `${p.refused} bikes carry`} cargo or children or{" "}
          {p.refused === 1 ? "has" : "have"} a mid motor: running out is refused there, because a chain that breaks
          throws the rider. They stay with Protect.
        </p>
      )}
      <ul className="mt-1 max-h-80 overflow-y-auto">
        {p.changed.map((c) => (
          <li key={c.tag}>
            <Link
              to={`/bikes/${c.tag}`}
              className="min-h-(--target) border-t border-base-300 hover:bg-base-200 flex flex-wrap items-center gap-x-3 gap-y-0.5 px-3 py-1.5"
            >
              <Tag tag={c.tag} size="small" />
              <span className="min-w-0 grow basis-48 truncate">
                {c.customer.name}
                <span className="text-quiet"> · {bikeName(c)}</span>
              </span>
              <span className="text-note">
                {verdictWords[c.from]} → <b>{verdictWords[c.to]}</b>{" "}
                <span className="font-mono text-quiet">at {percent(c.limit_pct)} %</span>
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {p.total > p.changed.length && (
        <p className="px-3 pb-2 text-note text-quiet">and {p.total - p.changed.length} more</p>
      )}
    </section>
  );
}
