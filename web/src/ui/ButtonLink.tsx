import { Link, type LinkProps } from "react-router";
import { joined, type Kind, kinds } from "./controls";
import { type Operation, useOffered } from "./frame";

/**
 * A way to another screen that looks like a button, there only for who may do what it leads to. It stands apart: the
 * customer's page has no other screen to go to.
 */
export function ButtonLink({
  kind = "plain",
  may,
  className,
  ...rest
}: { kind?: Kind; may?: Operation; className?: string } & LinkProps) {
  if (!useOffered(may)) return null;
  return <Link className={joined(kinds[kind], className)} {...rest} />;
}
