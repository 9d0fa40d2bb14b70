import type { CustomerFacts } from "../../api/client";
import { Choice, Tick } from "../../ui/parts";

type Way = NonNullable<CustomerFacts["contact_way"]>;

export const contactWays: { value: Way; words: string }[] = [
  { value: "", words: "Not asked" },
  { value: "message", words: "Message" },
  { value: "mail", words: "Mail" },
  { value: "none", words: "Not at all" },
];

/** How somebody may be reached, and whether they agreed to it: asked once, when they are new. */
export function Reach(props: {
  way: Way;
  consent: boolean;
  set: (part: { contact_way?: Way; consent?: boolean }) => void;
}) {
  return (
    <>
      <Choice
        label="How to contact them when something is due"
        value={props.way}
        options={contactWays}
        choose={(contact_way) => props.set({ contact_way })}
      />
      <Tick on={props.consent} set={(consent) => props.set({ consent })}>
        Agreed to be contacted
      </Tick>
    </>
  );
}
