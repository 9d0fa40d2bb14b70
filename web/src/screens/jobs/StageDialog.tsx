import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Job, StepAction, StepView } from "../../api/client";
import { peopleOptions } from "../../api/queries";
import { Button, Input } from "../../ui/controls";
import { FormDialog } from "../../ui/FormDialog";
import { useSession } from "../../ui/frame";
import { Dialog, Field } from "../../ui/parts";
import { faultAt } from "../../ui/sending";
import { FindingDialog, NoteDialog, PartDialog } from "./Noting";

/** What can be opened beside a step. */
export type Opened = Noted | "skip" | "hand-over" | "felt";

/** What can be noted at any time, whatever the step. */
export type Noted = "finding" | "note" | "part";

export function NotedDialog({ dialog, job, close }: { dialog: Noted; job: Job; close: () => void }) {
  switch (dialog) {
    case "finding":
      return <FindingDialog job={job} close={close} />;
    case "note":
      return <NoteDialog job={job} close={close} />;
    case "part":
      return <PartDialog job={job} close={close} />;
  }
}

export function StageDialog(props: {
  dialog: Opened;
  job: Job;
  step: StepView;
  error: unknown;
  go: (body: StepAction) => void;
  close: () => void;
}) {
  const { job, close } = props;
  const me = useSession().person;
  switch (props.dialog) {
    case "finding":
    case "note":
    case "part":
      return <NotedDialog dialog={props.dialog} job={job} close={close} />;
    case "skip":
      return (
        <SkipDialog
          step={props.step}
          error={props.error}
          skip={(reason) => {
            props.go({ action: "skip", reason });
            if (reason.trim().length >= 3) close();
          }}
          close={close}
        />
      );
    case "felt":
      return (
        <FeltDialog
          step={props.step}
          felt={(felt) => {
            props.go({ action: "fail", felt });
            close();
          }}
          close={close}
        />
      );
    case "hand-over":
      return (
        <HandOverDialog
          but={me.id}
          give={(person_id) => {
            props.go({ action: "hand-over", person_id });
            close();
          }}
          close={close}
        />
      );
  }
}

function SkipDialog(props: { step: StepView; error: unknown; skip: (reason: string) => void; close: () => void }) {
  const [reason, setReason] = useState("");
  return (
    <FormDialog
      title={`Leave out: ${props.step.title}`}
      action="Skip step"
      back="Do it"
      error={props.error}
      close={props.close}
      send={() => props.skip(reason)}
    >
      <Field label="Why" fault={faultAt(props.error, "reason")}>
        {(a) => (
          <Input
            {...a}
            name="skip_reason"
            maxLength={2000}
            value={reason}
            onChange={(e) => setReason(e.target.value)}
          />
        )}
      </Field>
    </FormDialog>
  );
}

/** What was felt on a test ride: it leads to the step that is done again. */
function FeltDialog(props: { step: StepView; felt: (code: string) => void; close: () => void }) {
  return (
    <Dialog title="What was it?" close={props.close}>
      <ul className="flex flex-col gap-2">
        {(props.step.felt ?? []).map((f) => (
          <li key={f.code}>
            <Button className="w-full flex-col items-start text-left" onClick={() => props.felt(f.code)}>
              {f.says}
              <span className="text-fine font-normal text-quiet">Back to: {f.leads}</span>
            </Button>
          </li>
        ))}
      </ul>
      <Button kind="quiet" className="self-start" onClick={props.close}>
        Cancel
      </Button>
    </Dialog>
  );
}

function HandOverDialog(props: { but: string; give: (person: string) => void; close: () => void }) {
  const people = (useQuery(peopleOptions).data ?? []).filter((p) => p.id !== props.but && p.role !== "counter");
  return (
    <Dialog title="Who takes it over" close={props.close}>
      <ul className="flex flex-col gap-2">
        {people.map((p) => (
          <li key={p.id}>
            <Button className="w-full" onClick={() => props.give(p.id)}>
              {p.name}
            </Button>
          </li>
        ))}
      </ul>
      {people.length === 0 && <p>Nobody else works at the stand.</p>}
      <Button kind="quiet" className="self-start" onClick={props.close}>
        Cancel
      </Button>
    </Dialog>
  );
}
