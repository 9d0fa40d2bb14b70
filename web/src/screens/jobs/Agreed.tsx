import { useState } from "react";
import type { Job, Quote } from "../../api/client";
import { Button, Input } from "../../ui/controls";
import { dayAndTime } from "../../ui/format";
import { money, typedMoney } from "../../ui/money";
import { Field } from "../../ui/parts";
import { quoteWords } from "./jobs";

type Agreement = NonNullable<Job["agreed"]>;

/** Who agreed on a price with the customer, and when; nothing where that was never kept. */
export function agreedBy(a: Agreement): string {
  return [a.at && dayAndTime(a.at), a.by].filter(Boolean).join(", ");
}

/** How a price that is quoted now stands to the one that was agreed. */
export function besideAgreed(a: Agreement, total: number, currency: string): string {
  const more = total - a.price;
  if (more === 0) return "as agreed";
  return `${money(Math.abs(more), currency)} ${more > 0 ? "more" : "less"} than agreed`;
}

/**
 * The price that is agreed with the customer. What was agreed stands as it is, with the new quote beside it;
 * another is typed only where somebody says that another was agreed on. Nothing is filled in.
 */
export function AgreedPrice(props: {
  job: Job;
  quote: Quote | undefined;
  value: string;
  set: (typed: string) => void;
  fault: string | undefined;
}) {
  const { job, quote, value, set, fault } = props;
  const [another, setAnother] = useState(false);
  const currency = quote?.currency ?? job.plan?.quote.currency ?? "EUR";
  const was = job.agreed;
  if (was && !another)
    return (
      <div data-testid="agreed">
        <p className="text-fine font-semibold text-quiet">Agreed with the customer</p>
        <p>
          <b className="font-mono">{money(was.price, currency)}</b>
          {agreedBy(was) && <span className="text-note text-quiet"> {agreedBy(was)}</span>}
        </p>
        {quote && (
          <p className={quote.total > was.price ? "font-semibold text-due-ink" : "text-quiet"}>
            This way is quoted at {quoteWords(quote)}, {besideAgreed(was, quote.total, currency)}.
          </p>
        )}
        <Button className="mt-1" onClick={() => setAnother(true)}>
          Another price was agreed
        </Button>
      </div>
    );
  return (
    <div className="flex flex-col items-start gap-2">
      <div className="w-full min-w-0">
        <Field
          label="Agreed with the customer"
          unit={currency}
          hint={
            quote && `Quoted ${quoteWords(quote)}${value === "" ? "; nothing is agreed until it is typed here" : ""}`
          }
          fault={fault}
        >
          {(a) => (
            <Input {...a} name="agreed" inputMode="decimal" value={value} onChange={(e) => set(e.target.value)} />
          )}
        </Field>
      </div>
      {quote && value === "" && <Button onClick={() => set(typedMoney(quote.total, currency))}>As quoted</Button>}
      {was && (
        <Button
          kind="quiet"
          className="-ml-4"
          onClick={() => {
            set("");
            setAnother(false);
          }}
        >
          {money(was.price, currency)} stands
        </Button>
      )}
    </div>
  );
}
