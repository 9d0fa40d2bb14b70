import { Link, type LinkProps } from "react-router";
import { joined, type Kind, kinds } from "./controls";

/** A way to another screen that looks like a button. It stands apart: the customer's page has no other screen to go to. */
export function ButtonLink({ kind = "plain", className, ...rest }: { kind?: Kind; className?: string } & LinkProps) {
  return <Link className={joined(kinds[kind], className)} {...rest} />;
}
