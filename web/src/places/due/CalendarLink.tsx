import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../../api/client";
import { linkOptions } from "../../api/queries";
import { dayAndTime } from "../../ui/format";
import { Dialog, Failure } from "../../ui/parts";
import { useChange } from "../../ui/useChange";

type Kind = "owner" | "calendar-shop" | "calendar-bike";

const words: Record<Kind, { deed: string; title: string; what: string }> = {
  "calendar-shop": {
    deed: "Calendar feed",
    title: "Due dates in a calendar",
    what: "A calendar program that subscribes to this address shows what is due in the shop. Whoever has it can read it.",
  },
  "calendar-bike": {
    deed: "Calendar feed",
    title: "This bike's due dates in a calendar",
    what: "A calendar program that subscribes to this address shows what this bike needs. Whoever has it can read it.",
  },
  owner: {
    deed: "Owner's page",
    title: "The owner's page of this bike",
    what: "Whoever has this address sees how worn the chain is, what was done and what comes next, and can tell the shop the odometer. No owner's name stands on it.",
  },
};

/** A secret address: shown, copied, and withdrawn by giving a new one. */
export function CalendarLink({ kind, tag }: { kind: Kind; tag?: string }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" className="deed-plain" onClick={() => setOpen(true)}>
        {words[kind].deed}
      </button>
      {open && <LinkDialog kind={kind} tag={tag} close={() => setOpen(false)} />}
    </>
  );
}

function LinkDialog({ kind, tag, close }: { kind: Kind; tag: string | undefined; close: () => void }) {
  const client = useQueryClient();
  const link = useQuery(linkOptions(kind, tag));
  const [copied, setCopied] = useState(false);
  const [sure, setSure] = useState(false);
  const renew = useChange(
    () => ask(api.POST("/links/{kind}", { params: { path: { kind }, query: tag ? { tag } : {} } })),
    (after) => {
      client.setQueryData(linkOptions(kind, tag).queryKey, after);
      setSure(false);
      setCopied(false);
    },
  );
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(link.data?.url ?? "");
      setCopied(true);
    } catch {
      setCopied(false); // the address stands there to be copied by hand
    }
  };
  return (
    <Dialog title={words[kind].title} close={close}>
      <p className="text-quiet">{words[kind].what}</p>
      {link.isError && <Failure error={link.error} again={() => link.refetch()} />}
      {link.data && (
        <>
          <p
            className="rounded-field border border-base-300 p-3 font-mono text-[14px] break-all select-all"
            data-testid="secret-link"
          >
            {link.data.url}
          </p>
          <p className="text-[14px] text-quiet">Given {dayAndTime(link.data.created_at)}</p>
          <div className="flex flex-wrap gap-2">
            <button type="button" className="deed-main" onClick={copy}>
              {copied ? "Copied" : "Copy"}
            </button>
            {kind === "owner" && (
              <a className="deed-plain" href={link.data.path} target="_blank" rel="noreferrer">
                Open it
              </a>
            )}
            {sure ? (
              <button
                type="button"
                className="deed-plain"
                disabled={renew.isPending}
                onClick={() => renew.mutate(undefined)}
              >
                Yes, the old one opens nothing then
              </button>
            ) : (
              <button type="button" className="deed-plain" onClick={() => setSure(true)}>
                Withdraw, give a new one
              </button>
            )}
            <button type="button" className="deed-quiet" onClick={close}>
              Close
            </button>
          </div>
        </>
      )}
      {renew.isError && <Failure error={renew.error} />}
    </Dialog>
  );
}
