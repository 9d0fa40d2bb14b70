import { type ReactNode, useId, useLayoutEffect, useRef } from "react";
import { Problem } from "../api/client";
import { Button, Checkbox, PressButton } from "./controls";
import { sayError } from "./said";

/** Says what will be in an empty place, and gives the first action. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="flex flex-col items-start gap-3 px-4 py-8">
      <h2 className="text-xl">{title}</h2>
      {children}
    </div>
  );
}

/** Says what went wrong and lets one try again. */
export function Failure({ error, again }: { error: unknown; again?: () => void }) {
  const said = sayError(error);
  const id = error instanceof Problem && error.body.status >= 500 ? error.body.request_id : undefined;
  return (
    <div
      role="alert"
      className="flex flex-wrap items-center gap-3 rounded-field border-l-4 border-error bg-base-200 px-4 py-3"
    >
      <span className="grow">
        {said}
        {id && <span className="block text-fine text-quiet">Number for the log: {id}</span>}
      </span>
      {again && <Button onClick={again}>Try again</Button>}
    </div>
  );
}

/** Holds the room of something that is being fetched. It says so to those who cannot see it. */
export function Waiting({ what }: { what: string }) {
  return (
    <div role="status" className="px-4 py-8 text-quiet">
      Fetching {what}…
    </div>
  );
}

type FieldProps = {
  label: string;
  hint?: string | undefined;
  fault?: string | undefined;
  unit?: string | undefined;
  children: (a: {
    id: string;
    "aria-invalid": boolean;
    "aria-describedby": string | undefined;
    className: string;
  }) => ReactNode;
};

/** A labelled field with its unit, and what is wrong with it beneath. */
export function Field({ label, hint, fault, unit, children }: FieldProps) {
  const id = useId();
  const said = fault ?? hint;
  return (
    <div className="min-w-0">
      <label htmlFor={id} className="label mb-1">
        {label}
      </label>
      <div className="relative">
        {children({
          id,
          "aria-invalid": fault !== undefined,
          "aria-describedby": said ? `${id}-said` : undefined,
          className: unit ? "pr-12" : "",
        })}
        {unit && (
          <span className="pointer-events-none absolute inset-y-0 right-2.5 flex items-center font-mono text-fine text-quiet">
            {unit}
          </span>
        )}
      </div>
      {said && (
        <p id={`${id}-said`} className={`mt-1 text-fine ${fault ? "font-semibold text-error" : "text-quiet"}`}>
          {said.charAt(0).toUpperCase() + said.slice(1)}
        </p>
      )}
    </div>
  );
}

/** Something that is so or is not, with its words beside it; the whole line takes the finger. */
export function Tick({
  on,
  set,
  children,
}: {
  on: boolean | undefined;
  set: (on: boolean) => void;
  children: ReactNode;
}) {
  return (
    <label className="flex min-h-(--target) items-center gap-3">
      <Checkbox checked={on ?? false} onChange={(e) => set(e.target.checked)} />
      <span>{children}</span>
    </label>
  );
}

/** A window over the page; Escape and a tap beside it close it. */
export function Dialog({ title, close, children }: { title: string; close: () => void; children: ReactNode }) {
  const ref = useRef<HTMLDialogElement>(null);
  const id = useId();
  // Before the page is drawn, and while what is taken away is still there: the focus goes back to what opened the dialog.
  useLayoutEffect(() => {
    const dialog = ref.current;
    const opener = document.activeElement;
    dialog?.showModal();
    return () => {
      dialog?.close();
      if (opener instanceof HTMLElement && opener.isConnected) opener.focus({ preventScroll: true });
    };
  }, []);
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the keyboard has Escape
    <dialog
      ref={ref}
      aria-labelledby={id}
      className="modal"
      onCancel={(e) => {
        e.preventDefault();
        close();
      }}
      onClick={(e) => e.target === ref.current && close()}
    >
      <div className="modal-box flex flex-col gap-4">
        <h2 id={id} className="text-xl">
          {title}
        </h2>
        {children}
      </div>
    </dialog>
  );
}

/** One of several choices, as buttons side by side. */
export function Choice<T extends string>(props: {
  label: string;
  value: T | undefined;
  options: readonly { value: T; words: string }[];
  choose: (v: T) => void;
}) {
  return (
    <fieldset className="min-w-0">
      <legend className="fieldset-legend">{props.label}</legend>
      <div className="flex flex-wrap gap-1.5">
        {props.options.map((o) => (
          <PressButton key={o.value} on={o.value === props.value} onClick={() => props.choose(o.value)}>
            {o.words}
          </PressButton>
        ))}
      </div>
    </fieldset>
  );
}
