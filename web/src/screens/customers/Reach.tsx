import type { CustomerFacts } from "../../api/client";
import { Choice, Tick } from "../../ui/parts";

type Way = NonNullable<CustomerFacts["contact_way"]>;

export const contactWays: { value: Way; words: string }[] = [
  { value: "", words: "Not asked" },
  { value: "message", words: "Message" },
  { value: "mail", words: "Mail" },
  { value: "none", words: "Not at all" },
];

export type How = NonNullable<CustomerFacts["consent_how"]>;

export const consentWays: { value: How; words: string }[] = [
  { value: "in-person", words: "In person" },
  { value: "phone", words: "On the phone" },
  { value: "mail", words: "By email" },
  { value: "written", words: "In writing" },
  { value: "", words: "Not noted" },
];

/** How somebody may be reached, and whether they agreed to it: asked once, when they are new. */
export function Reach(props: {
  way: Way;
  consent: boolean;
  how: How;
  set: (part: { contact_way?: Way; consent?: boolean; consent_how?: How }) => void;
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
      {props.consent && (
        <Choice
          label="How they agreed"
          value={props.how}
          options={consentWays}
          choose={(consent_how) => props.set({ consent_how })}
        />
      )}
    </>
  );
}
