import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import type { SettingChange } from "../../api/client";
import { rulesOptions, settingChangesOptions } from "../../api/queries";
import { Fetched } from "../../ui/Fetched";
import { dayAndTime } from "../../ui/format";
import { useSession } from "../../ui/frame";
import { Heading } from "../../ui/Heading";
import { ShowMore } from "../../ui/ListHead";
import { Empty } from "../../ui/parts";
import { titleOf } from "../../words/due";
import { settingName, settingValue } from "../../words/settings";

/** Every change of a setting with what it was before, newest first. */
export function ChangesPlace() {
  const changes = useInfiniteQuery(settingChangesOptions);
  const defaults = useQuery(rulesOptions).data?.defaults;
  const titles = Object.fromEntries([
    ...(defaults?.steps ?? []).map((s) => [s.code, s.title]),
    ...(defaults?.tasks ?? []).map((t) => [t.code, titleOf(t)]),
  ]);
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Changes of settings</Heading>
      <Fetched query={changes} what="the changes">
        {({ pages }) => {
          const all = pages.flatMap((p) => p.changes);
          return (
            <section className="card card-border bg-base-100" aria-label="Changes of settings">
              {all.length === 0 ? (
                <Empty title="No setting was changed yet.">
                  <p>Every change will stand here: who made it, when, and what it was before.</p>
                </Empty>
              ) : (
                <ul>
                  {all.map((c) => (
                    <Change key={c.number} change={c} titles={titles} />
                  ))}
                </ul>
              )}
              <ShowMore query={changes} />
            </section>
          );
        }}
      </Fetched>
    </div>
  );
}

const kinds: Record<SettingChange["kind"], string> = {
  "rules-changed": "Settings",
  "permissions-changed": "Who may do what",
  "person-added": "Added",
  "person-changed": "Person",
  "device-changed": "Device",
};

function Change({ change: c, titles }: { change: SettingChange; titles: Record<string, string> }) {
  const { currency } = useSession().shop;
  return (
    <li
      data-testid="change"
      className="grid gap-x-4 gap-y-1 border-t border-base-300 px-4 py-2 first:border-t-0 sm:grid-cols-[200px_minmax(0,1fr)]"
    >
      <span className="min-w-0">
        <time dateTime={c.at} className="block font-mono text-fine text-quiet">
          {dayAndTime(c.at)}
        </time>
        <span className="block break-words">{c.person}</span>
        <span className="block text-fine text-quiet break-words">
          {kinds[c.kind]}
          {c.of && `: ${c.of}`}
        </span>
      </span>
      <dl className="grid min-w-0 content-start gap-y-1">
        {c.fields.map((f) => (
          <div key={`${f.path} ${f.of ?? ""}`} className="grid gap-x-3 md:grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)]">
            <dt className="text-note text-quiet break-words">{settingName(f.path, f.of, titles) ?? f.path}</dt>
            <dd className="min-w-0 break-words">
              {f.path === "person.secret" ? (
                <b>another one</b>
              ) : (
                <>
                  {c.kind !== "person-added" && <>{settingValue(f.path, f.before, currency)} → </>}
                  <b>{settingValue(f.path, f.after, currency)}</b>
                </>
              )}
            </dd>
          </div>
        ))}
        {c.fields.length === 0 && <div className="text-quiet">Nothing that this version of the program knows</div>}
      </dl>
    </li>
  );
}
