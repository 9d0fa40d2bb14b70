import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import { endKeeping } from "../outbox/keeping";
import { leavingOnPurpose } from "../outbox/outbox";
import { signOutHere } from "../outbox/people";
import { PeopleAndPin } from "../screens/signin/SignIn";
import { roleWords } from "../words/people";
import { Button, Input } from "./controls";
import { nameDevice, nameHere } from "./device";
import { FormDialog } from "./FormDialog";
import { useSession } from "./frame";
import { Choice, Dialog, Failure, Field } from "./parts";
import { faultAt, useWrite } from "./sending";
import { tellTabs } from "./tabs";
import { setLook, useLook } from "./theme";
import { doAllHeld } from "./undo";

/** Switching person (a tap here, a tap on the name, the PIN), how this device looks, signing out. */
export function PersonMenu({ close }: { close: () => void }) {
  const session = useSession();
  const look = useLook();
  const [device, setDevice] = useState(() => nameHere(session.device));
  const [secret, setSecret] = useState(false);
  const signOut = useMutation({
    mutationFn: async () => {
      await doAllHeld();
      await signOutHere();
      await endKeeping();
    },
    onSuccess: () => {
      tellTabs();
      leavingOnPurpose();
      window.location.assign("/"); // a fresh page: the next person sees nothing fetched for this one
    },
  });
  if (secret) return <OwnSecret close={close} />;
  return (
    <Dialog title={session.person.name} close={close}>
      <p className="-mt-3 text-quiet">
        {roleWords[session.person.role]} · {session.device}
      </p>
      <section className="flex flex-col gap-2">
        <h3 className="text-fine font-semibold text-quiet">Switch to</h3>
        <PeopleAndPin without={session.person.id} done={close} />
      </section>
      <section className="flex flex-wrap gap-x-6 gap-y-3 border-t border-base-300 pt-4">
        <Choice
          label="Light"
          value={look.theme}
          options={[
            { value: "day", words: "Day" },
            { value: "night", words: "Night" },
            { value: "auto", words: "As the device" },
          ]}
          choose={(theme) => setLook({ theme })}
        />
        <Choice
          label="Buttons"
          value={look.size}
          options={[
            { value: "bare", words: "Normal size" },
            { value: "glove", words: "Gloves" },
          ]}
          choose={(size) => setLook({ size })}
        />
      </section>
      <Field label="This device is called" hint="As it stands in the history, from the next sign-in on.">
        {(a) => (
          <Input
            {...a}
            value={device}
            maxLength={40}
            onChange={(e) => {
              setDevice(e.target.value);
              if (e.target.value.trim()) nameDevice(e.target.value.trim());
            }}
          />
        )}
      </Field>
      {signOut.isError && <Failure error={signOut.error} />}
      <div className="flex flex-wrap justify-between gap-3">
        <Button onClick={() => signOut.mutate()} disabled={signOut.isPending}>
          Sign out
        </Button>
        <Button onClick={() => setSecret(true)}>
          {session.person.role === "owner" ? "Change password" : "Change PIN"}
        </Button>
        <Button kind="quiet" onClick={close}>
          Close
        </Button>
      </div>
    </Dialog>
  );
}

/** Another PIN, or password, for whoever is signed in: the present one is asked for, and all other devices are signed out. */
function OwnSecret({ close }: { close: () => void }) {
  const password = useSession().person.role === "owner";
  const word = password ? "password" : "PIN";
  const [now, setNow] = useState("");
  const [then, setThen] = useState("");
  const [again, setAgain] = useState("");
  const [differ, setDiffer] = useState(false);
  const send = useWrite((body: { now: string; then: string }) => ask(api.PUT("/session/secret", { body })), [], close);
  const field = (
    label: string,
    name: string,
    value: string,
    set: (v: string) => void,
    fault?: string,
    hint?: string,
  ) => (
    <Field label={label} fault={fault} hint={hint}>
      {(a) => (
        <Input
          {...a}
          type="password"
          name={name}
          inputMode={password ? "text" : "numeric"}
          autoComplete={name === "now" ? "current-password" : "new-password"}
          maxLength={200}
          value={value}
          onChange={(e) => set(e.target.value)}
        />
      )}
    </Field>
  );
  return (
    <FormDialog
      title={`Change your ${word}`}
      action="Save"
      pending={send.isPending}
      error={send.error}
      close={close}
      send={() => {
        setDiffer(then !== again);
        if (then === again) send.mutate({ now, then });
      }}
    >
      {field(`Present ${word}`, "now", now, setNow, faultAt(send.error, "now"))}
      {field(
        `New ${word}`,
        "then",
        then,
        setThen,
        faultAt(send.error, "secret"),
        password ? "At least 10 characters." : "4 to 8 digits, not the first that anybody would try.",
      )}
      {field("The new one again", "again", again, setAgain, differ ? "The two are not the same." : undefined)}
      <p className="text-note text-quiet">You stay signed in here, and are signed out on every other device.</p>
    </FormDialog>
  );
}
