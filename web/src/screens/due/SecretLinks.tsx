import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type GivenLink, type LiveLink } from "../../api/client";
import { linksOptions } from "../../api/queries";
import { Button, Input } from "../../ui/controls";
import { dayAndTime } from "../../ui/format";
import { Dialog, Failure, Field, Waiting } from "../../ui/parts";
import { useWrite } from "../../ui/sending";

type Kind = "owner" | "calendar-shop" | "calendar-bike";

const words: Record<Kind, { action: string; title: string; what: string }> = {
  "calendar-shop": {
    action: "Calendar feed",
    title: "Due dates in a calendar",
    what: "A calendar program that subscribes to this address shows what is due in the shop. Whoever has it can read it.",
  },
  "calendar-bike": {
    action: "Calendar feed",
    title: "This bike's due dates in a calendar",
    what: "A calendar program that subscribes to this address shows what this bike needs. Whoever has it can read it.",
  },
  owner: {
    action: "Customer's page",
    title: "The customer's page of this bike",
    what: "Whoever has this address sees how worn the chain is, what was done and what comes next, and can tell the shop the odometer. No customer's name is on it.",
  },
};

/** Secret addresses: each is shown once, when it is made, and can be withdrawn by itself. */
export function SecretLinks({ kind, tag }: { kind: Kind; tag?: string }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>{words[kind].action}</Button>
      {open && <LinksDialog kind={kind} tag={tag} close={() => setOpen(false)} />}
    </>
  );
}

function LinksDialog({ kind, tag, close }: { kind: Kind; tag: string | undefined; close: () => void }) {
  const links = useQuery(linksOptions(tag));
  const [name, setName] = useState("");
  const [given, setGiven] = useState<GivenLink>();
  const give = useWrite(
    (body: { kind: Kind; tag?: string; name?: string }) => ask(api.POST("/links", { body })),
    [tag ? { topic: "bike", tag } : { topic: "bike" }],
    (link) => {
      setGiven(link);
      setName("");
    },
  );
  const live = links.data?.filter((l) => l.kind === kind) ?? [];
  return (
    <Dialog title={words[kind].title} close={close}>
      <p className="text-quiet">{words[kind].what}</p>
      {given && <Given link={given} />}
      <form
        className="flex flex-wrap items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          give.mutate({ kind, ...(tag ? { tag } : {}), ...(name.trim() ? { name: name.trim() } : {}) });
        }}
      >
        <div className="min-w-48 grow">
          <Field label="What is it for?" hint="So that it can be told from the others">
            {(a) => <Input {...a} value={name} maxLength={80} onChange={(e) => setName(e.target.value)} />}
          </Field>
        </div>
        <Button type="submit" kind={given ? "plain" : "main"} disabled={give.isPending}>
          {give.isPending ? "Making…" : given ? "Make another link" : "Make a link"}
        </Button>
      </form>
      {give.isError && <Failure error={give.error} />}
      {links.isPending && <Waiting what="the links" />}
      {links.isError && <Failure error={links.error} again={() => links.refetch()} />}
      {links.data && (
        <section aria-label="Links that work">
          <h3 className="text-fine font-semibold text-quiet mb-1">Links that work</h3>
          {live.length === 0 ? (
            <p className="text-note text-quiet">None yet.</p>
          ) : (
            <ul>
              {live.map((l) => (
                <Live key={l.id} link={l} tag={tag} />
              ))}
            </ul>
          )}
        </section>
      )}
      <Button kind="quiet" className="self-start" onClick={close}>
        Close
      </Button>
    </Dialog>
  );
}

/** The address of a link that was just made: nobody is shown it again. */
function Given({ link }: { link: GivenLink }) {
  const [copied, setCopied] = useState("");
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(link.url);
      setCopied(link.id);
    } catch {
      setCopied(""); // the address stands there to be copied by hand
    }
  };
  return (
    <div role="status" className="flex flex-col gap-2 rounded-field border-l-4 border-success bg-base-200 p-3">
      <p>Copy it now: the address is not shown again.</p>
      <p
        className="rounded-field border border-base-300 bg-base-100 p-3 font-mono text-note break-all select-all"
        data-testid="secret-link"
      >
        {link.url}
      </p>
      <div className="flex flex-wrap gap-2">
        <Button kind="main" onClick={copy}>
          {copied === link.id ? "Copied" : "Copy"}
        </Button>
        {link.kind === "owner" && (
          <a className="btn btn-outline" href={link.path} target="_blank" rel="noreferrer">
            Open it
          </a>
        )}
      </div>
    </div>
  );
}

function Live({ link, tag }: { link: LiveLink; tag: string | undefined }) {
  const [sure, setSure] = useState(false);
  const withdraw = useWrite(
    () => ask(api.DELETE("/links/{link}", { params: { path: { link: link.id } } })),
    [tag ? { topic: "bike", tag } : { topic: "bike" }],
  );
  return (
    <li className="flex flex-wrap items-center gap-2 border-t border-base-300 py-2" data-testid="live-link">
      <span className="min-w-0 grow wrap-anywhere">
        <b>{link.name}</b> <span className="text-note text-quiet">made {dayAndTime(link.created_at)}</span>
      </span>
      {sure ? (
        <Button disabled={withdraw.isPending} onClick={() => withdraw.mutate()}>
          Yes, it opens nothing then
        </Button>
      ) : (
        <Button kind="quiet" onClick={() => setSure(true)}>
          Withdraw
        </Button>
      )}
      {withdraw.isError && <Failure error={withdraw.error} />}
    </li>
  );
}
