import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Message, type MessageAction } from "../../api/client";
import { messagesOptions } from "../../api/queries";
import { ButtonLink } from "../../ui/ButtonLink";
import { Button, TextArea } from "../../ui/controls";
import { Fetched } from "../../ui/Fetched";
import { dayAndTime } from "../../ui/format";
import { Heading } from "../../ui/Heading";
import { Counted, ShowMore } from "../../ui/ListHead";
import { Empty, Failure, Field } from "../../ui/parts";
import { faultAt, namesFields, useWrite } from "../../ui/sending";
import { Tag } from "../../ui/Tag";
import { messageWords } from "../../words/due";
import { DueHead } from "./DueHead";
import { useTaskTitle } from "./useTaskTitle";

/** What owners are told: drafts to read and send, what is on its way, and what became of the rest. */
export function MessagesPlace() {
  const messages = useInfiniteQuery(messagesOptions);
  return (
    <div className="flex flex-col gap-3 p-3 sm:p-4">
      <Heading unseen>Messages</Heading>
      <DueHead />
      <Fetched query={messages} what="the messages">
        {({ pages }) => {
          const all = pages.flatMap((p) => p.messages);
          const drafts = all.filter((m) => m.state === "draft");
          const rest = all.filter((m) => m.state !== "draft");
          return (
            <>
              <Counted total={pages[0]?.total} one="message" />
              {drafts.length === 0 ? (
                <div className="card card-border bg-base-100">
                  <Empty title="No drafts wait.">
                    <p>
                      When a bike is due and its customer agreed to be contacted, a draft stands here. It waits until
                      somebody sends it.
                    </p>
                    <ButtonLink to="/due">See what is due</ButtonLink>
                  </Empty>
                </div>
              ) : (
                <ul className="grid grid-cols-[minmax(0,1fr)] gap-3 xl:grid-cols-2" aria-label="Drafts">
                  {drafts.map((m) => (
                    <Draft key={m.id} message={m} />
                  ))}
                </ul>
              )}
              {rest.length > 0 && <Rest messages={rest} />}
              <ShowMore query={messages} />
            </>
          );
        }}
      </Fetched>
    </div>
  );
}

function useDeedOn(m: Message) {
  return useWrite(
    (body: MessageAction) => ask(api.PUT("/messages/{message}", { params: { path: { message: m.id } }, body })),
    [{ topic: "message" }],
  );
}

function Draft({ message: m }: { message: Message }) {
  // What is due may change while somebody reads: words that nobody touched follow it, others are left to their writer.
  const [typed, setTyped] = useState<{ over: string; words: string } | null>(null);
  const body = typed?.words ?? m.body;
  const moved = typed !== null && typed.over !== m.body;
  const send = useDeedOn(m);
  const title = useTaskTitle();
  return (
    <li className="card card-border bg-base-100 flex flex-col gap-3 p-4" data-testid="draft">
      <div className="flex flex-wrap items-center justify-between gap-3">
        <Link to={`/bikes/${m.tag}`} className="flex min-h-(--target) min-w-0 items-center gap-3">
          <Tag tag={m.tag} size="small" />
          <span className="truncate font-semibold">{m.customer.name}</span>
        </Link>
        <span className="font-mono text-note break-all text-quiet">
          {m.way === "mail" ? "mail" : "message"} to {m.address}
        </span>
      </div>
      <p className="text-note text-quiet">{m.codes.map(title).join(", ")}</p>
      <Field label="What is said" fault={faultAt(send.error, "body")}>
        {(a) => (
          <TextArea
            {...a}
            rows={5}
            maxLength={1000}
            value={body}
            onChange={(e) => setTyped({ over: typed?.over ?? m.body, words: e.target.value })}
            name="message"
          />
        )}
      </Field>
      {moved && (
        <div role="status" className="border-l-4 border-warning pl-3 text-note">
          <p>What is due has changed since you began to write. It would now say:</p>
          <p className="my-1 text-quiet">{m.body}</p>
          <div className="flex flex-wrap gap-2">
            <Button onClick={() => setTyped(null)}>Take these words</Button>
            <Button kind="quiet" onClick={() => setTyped({ over: m.body, words: body })}>
              Keep mine
            </Button>
          </div>
        </div>
      )}
      {body.includes("{link}") && (
        <p className="text-note text-quiet">
          {"{link}"} becomes the address of the customer's page when it is sent, a new one for each message.
        </p>
      )}
      {send.isError && !namesFields(send.error) && <Failure error={send.error} />}
      <div className="flex flex-wrap gap-2">
        <Button
          kind="main"
          disabled={send.isPending || moved}
          onClick={() => send.mutate({ action: "send", version: m.version, body })}
        >
          Send it
        </Button>
        <Button disabled={send.isPending} onClick={() => send.mutate({ action: "withdraw", version: m.version })}>
          Do not send
        </Button>
      </div>
    </li>
  );
}

function Rest({ messages }: { messages: Message[] }) {
  return (
    <section className="card card-border bg-base-100" aria-label="Sent and ended">
      <h2 className="text-fine font-semibold text-quiet px-4 pt-3 pb-1">On their way, delivered and given up</h2>
      <ul>
        {messages.map((m) => (
          <One key={m.id} message={m} />
        ))}
      </ul>
    </section>
  );
}

function One({ message: m }: { message: Message }) {
  const act = useDeedOn(m);
  return (
    <li
      className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-base-300 px-4 py-2"
      data-testid="message"
      data-state={m.state}
    >
      <Link to={`/bikes/${m.tag}`} className="flex min-h-(--target) items-center">
        <Tag tag={m.tag} size="small" />
      </Link>
      <div className="min-w-0 grow basis-64">
        <p className="truncate">
          <b>{m.customer.name}</b> <span className="text-quiet">{m.body}</span>
        </p>
        <p className="text-fine text-quiet">
          {m.queued_at ? dayAndTime(m.queued_at) : dayAndTime(m.created_at)}
          {m.state === "delivered" && (m.sent_by ? `, sent by ${m.sent_by}` : ", sent by itself")}
          {m.state === "queued" && m.next_try_at && `, next try ${dayAndTime(m.next_try_at)}`}
          {m.tries > 1 && `, ${m.tries} tries`}
          {m.last_error && `: ${m.last_error}`}
        </p>
      </div>
      <span className={`font-semibold ${m.state === "not-reached" ? "text-error" : ""}`}>{messageWords[m.state]}</span>
      {m.state === "not-reached" && (
        <Button disabled={act.isPending} onClick={() => act.mutate({ action: "again", version: m.version })}>
          Try again
        </Button>
      )}
      {m.state === "queued" && (
        <Button disabled={act.isPending} onClick={() => act.mutate({ action: "withdraw", version: m.version })}>
          Take back
        </Button>
      )}
      {act.isError && <Failure error={act.error} />}
    </li>
  );
}
