import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import type { Instrument } from "../../api/client";
import { instrumentsOptions, retiredOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Key } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { percent, shortDay } from "../../ui/format";
import { useCommands, useMay } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { Counted } from "../../ui/ListHead";
import { Plate } from "../../ui/Plate";
import { Empty } from "../../ui/parts";
import { kindLong } from "../../words/tools";

/** The measuring tools of the shop: in use, and retired. */
export function ToolsPlace() {
  const navigate = useNavigate();
  const may = useMay("addInstrument");
  const tools = useQuery(instrumentsOptions);
  const retired = useQuery(retiredOptions);
  useCommands(may ? { n: { words: "Add a tool", run: () => navigate("/settings/tools/new") } } : {});
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Measuring tools</Heading>
      <div className="flex flex-wrap items-center justify-between gap-3">
        <p className="max-w-prose text-quiet">
          What a tool reads on a new chain is taken off its readings. Check it twice a year, and after a fall.
        </p>
        {may && (
          <ButtonLink to="/settings/tools/new" kind="main" className="max-sm:w-full">
            Add a tool <Key>N</Key>
          </ButtonLink>
        )}
      </div>
      <section className="card card-border bg-base-100" aria-label="Tools in use">
        <Fetched query={tools} what="the tools">
          {(list) =>
            list.length === 0 ? (
              <Empty title="No tool is in use.">
                <p>Add what the shop measures with; a steel ruler is enough to begin.</p>
              </Empty>
            ) : (
              <>
                <Counted total={list.length} one="tool" />
                <ul>
                  {list.map((t) => (
                    <ToolRow key={t.id} tool={t} />
                  ))}
                </ul>
              </>
            )
          }
        </Fetched>
      </section>
      {(retired.data?.length ?? 0) > 0 && (
        <section className="card card-border bg-base-100" aria-label="Retired tools">
          <h2 className="text-fine font-semibold text-quiet px-4 pt-3 pb-1">Retired: what they read stays on record</h2>
          <ul>
            {retired.data?.map((t) => (
              <ToolRow key={t.id} tool={t} />
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

function ToolRow({ tool: t }: { tool: Instrument }) {
  return (
    <li>
      <Link
        to={`/settings/tools/${t.id}`}
        className="min-h-(--target) border-t border-base-300 hover:bg-base-200 grid grid-cols-[auto_minmax(0,1fr)] items-center gap-x-3 px-4 py-2 sm:grid-cols-[auto_minmax(0,1fr)_minmax(0,1.2fr)]"
      >
        {t.retired ? <span className="w-[42px]" /> : <Plate state={t.zero_check_due ? "soon" : "fresh"} size={24} />}
        <span className="min-w-0">
          <span className="block font-semibold break-words">{t.name}</span>
          <span className="block text-note text-quiet">
            {kindLong[t.kind]}
            {t.marks_pct?.length ? `: ${t.marks_pct.join(" · ")} %` : ""}
            {t.spreads && ", spreads the rollers"}
          </span>
        </span>
        <span className="text-note max-sm:col-start-2">
          <ZeroState tool={t} />
        </span>
      </Link>
    </li>
  );
}

/** What is known of a tool's zero, in a line. */
export function ZeroState({ tool: t }: { tool: Instrument }) {
  if (t.kind === "pull-off") return <span className="text-quiet">A look has no zero</span>;
  if (!t.zero_checked_on) return <span className={t.retired ? "text-quiet" : "text-soon-ink"}>Zero never checked</span>;
  const day = shortDay(t.zero_checked_on);
  return (
    <>
      {t.compares ? (
        "Marks, "
      ) : (
        <>
          Zero <span className="font-mono">{percent(t.zero_offset_pct)} %</span>,{" "}
        </>
      )}
      {t.zero_check_due && !t.retired ? (
        <span className="text-soon-ink">last checked {day}, over half a year ago</span>
      ) : (
        <span className="text-quiet">checked {day}</span>
      )}
    </>
  );
}
