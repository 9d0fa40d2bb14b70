import type { ComponentProps, ReactNode } from "react";
import { type Operation, useOffered } from "./frame";

/** What a button is for: the main action of a screen, any other, a way back or aside, or a line or cell that is pressed. */
export type Kind = "main" | "plain" | "quiet" | "row" | "cell";

export const kinds: Record<Kind, string> = {
  main: "btn btn-primary",
  plain: "btn btn-outline",
  quiet: "btn btn-link",
  row: "btn btn-ghost w-full justify-start text-left font-normal",
  cell: "", // drawn by its screen: a link of a chain, a bar of the day
};

export const joined = (...names: (string | undefined)[]) => names.filter(Boolean).join(" ");

/**
 * A button. Unless it says `type="submit"`, it sends no form. With `may` it is there only for who may do that operation of
 * the contract: nobody is shown what they may not do.
 */
export function Button({
  kind = "plain",
  may,
  className,
  ...rest
}: { kind?: Kind; may?: Operation } & ComponentProps<"button">) {
  if (!useOffered(may)) return null;
  return <button type="button" className={joined(kinds[kind], className)} {...rest} />;
}

/** What is there only for who may do an operation of the contract. */
export function For({ may, children }: { may: Operation; children: ReactNode }) {
  return useOffered(may) ? children : null;
}

/** One of several things that may be on at a time, or one of several of which one is. */
export function PressButton({ on, className, ...rest }: { on: boolean } & ComponentProps<"button">) {
  return (
    <button
      type="button"
      aria-pressed={on}
      className={joined("btn", on ? "btn-neutral" : "btn-outline border-base-300", "px-3 font-medium", className)}
      {...rest}
    />
  );
}

const wrong = (props: { "aria-invalid"?: unknown }, name: string) =>
  props["aria-invalid"] === true || props["aria-invalid"] === "true" ? name : undefined;

/** A field of one line. */
export function Input({ className, ...rest }: ComponentProps<"input">) {
  return <input className={joined("input w-full", wrong(rest, "input-error"), className)} {...rest} />;
}

/** A field of several lines; it grows with what is written. */
export function TextArea({ className, ...rest }: ComponentProps<"textarea">) {
  return <textarea className={joined("textarea w-full", wrong(rest, "textarea-error"), className)} {...rest} />;
}

/** One of a list that is too long for buttons. */
export function Select({ className, ...rest }: ComponentProps<"select">) {
  return <select className={joined("select w-full", wrong(rest, "select-error"), className)} {...rest} />;
}

/** Something that is so or is not. */
export function Checkbox({ className, ...rest }: ComponentProps<"input">) {
  return <input type="checkbox" className={joined("checkbox checkbox-primary", className)} {...rest} />;
}

/** One of several, of which one is chosen. */
export function Radio({ className, ...rest }: ComponentProps<"input">) {
  return <input type="radio" className={joined("radio radio-primary", className)} {...rest} />;
}

/** A figure that is set by pulling. */
export function Range({ className, ...rest }: ComponentProps<"input">) {
  return <input type="range" className={joined("range range-primary w-full", className)} {...rest} />;
}

/** Asks the device for files. A button opens it, so it is never seen. */
export function FileInput(props: ComponentProps<"input">) {
  return <input type="file" className="hidden" {...props} />;
}

/** Rows and columns. */
export function Table({ className, ...rest }: ComponentProps<"table">) {
  return <table className={joined("table table-sm", className)} {...rest} />;
}

/** The key that does the same; it is not shown where there is no keyboard. */
export function Key({ children }: { children: ReactNode }) {
  return <kbd className="kbd kbd-sm pointer-coarse:hidden">{children}</kbd>;
}
