import type { Joint, ReplacementPlan } from "../../api/client";
import { type LinkDraft, noLink } from "./LinkChoice";

/** A replacement as it is typed, kept on the device until it is recorded. */
export type Draft = {
  from: "shelf" | "kept" | "other";
  chain: string; // of the shelf, or the part that was kept
  what: string;
  sprockets: string; // that another chain is for
  box: string;
  links: string;
  joint: Joint;
  halfLink: boolean;
  direction: string;
  link: LinkDraft;
  old: "" | "kept" | "scrapped";
  fitted: { sprockets: string | null; rings: string | null; pulleys: string | null };
  checks: string[];
  ride: "" | "no-skip" | "skips";
  odometer: string;
  note: string;
};

/** Whether what a device kept is a draft of this page. */
export function isReplacing(v: unknown): v is Draft {
  const d = v as Draft;
  return (
    typeof v === "object" &&
    v !== null &&
    typeof d.from === "string" &&
    typeof d.links === "string" &&
    Array.isArray(d.checks) &&
    typeof d.link === "object" &&
    typeof d.fitted === "object"
  );
}

/** Where a replacement starts from: what the shelf has for it and what the verdict asks for. */
export function startReplacing(plan: ReplacementPlan): Draft {
  const first = plan.chains.find((c) => c.facts.quantity > 0);
  return {
    from: first ? "shelf" : "other",
    chain: first?.id ?? "",
    what: "",
    sprockets: plan.sprockets ? String(plan.sprockets) : "",
    box: "",
    links: "",
    joint: "joining-link",
    halfLink: false,
    direction: "",
    link: linkFor(plan, first?.id ?? "", noLink),
    old: "scrapped",
    fitted: { sprockets: plan.advice.sprockets ? "" : null, rings: null, pulleys: null },
    checks: [],
    ride: "",
    odometer: "",
    note: "",
  };
}

/**
 * What closes a chain of the shelf that is chosen: the joining link in its box, where there is one, and no other is
 * taken from the shelf. What was chosen otherwise (the old one, a pin, another) stays.
 */
export function linkFor(plan: ReplacementPlan, chain: string, link: LinkDraft): LinkDraft {
  if (link.from !== "shelf" && link.from !== "box") return link;
  if (plan.chains.find((c) => c.id === chain)?.facts.has_joining_link) return { ...link, from: "box", stock: "" };
  if (link.from === "shelf" && link.stock) return link;
  return { ...link, from: "shelf", stock: plan.links.find((l) => l.facts.quantity > 0)?.id ?? "" };
}

/** A whole number of links or kilometres as it is typed. */
export const wholeOf = (text: string) => (/^\d{1,4}$/.test(text.trim()) ? Number(text.trim()) : undefined);
