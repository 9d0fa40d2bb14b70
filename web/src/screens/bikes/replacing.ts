import type { Joint, Replacement, ReplacementPlan } from "../../api/client";
import type { Distance } from "../../ui/distance";
import * as field from "../../ui/fields";
import { type LinkDraft, linkOf, noLink } from "./LinkChoice";

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

/** Where a replacement starts from: what the shelf has for it, what the verdict asks for, and how many links the chain had. */
export function startReplacing(plan: ReplacementPlan, links?: number): Draft {
  const first = plan.chains.find((c) => c.facts.quantity > 0);
  return {
    from: first ? "shelf" : "other",
    chain: first?.id ?? "",
    what: "",
    sprockets: plan.sprockets ? String(plan.sprockets) : "",
    box: "",
    links: links === undefined ? "" : String(links),
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

/** What was typed, as it is recorded. */
export const replacementOf = (plan: ReplacementPlan, d: Distance) =>
  field.together((draft: Draft): { is: Replacement; faults: Record<string, string> } => {
    const faults: Record<string, string> = {};
    const kept = plan.kept.find((c) => c.part_id === draft.chain);
    const links = draft.from === "kept" ? (kept?.links ?? wholeOf(draft.links)) : wholeOf(draft.links);
    if (links === undefined) faults["chain.links"] = "Count the links of the chain as it is closed.";
    const odometer = draft.odometer.trim() === "" ? null : d.typed(draft.odometer);
    if (odometer === undefined) faults.odometer_km = d.wrong;
    const width = wholeOf(draft.sprockets);
    const box = boxOf(plan, draft);
    const link = draft.joint === "joining-link" ? linkOf(draft.link) : undefined;
    const is: Replacement = {
      chain: {
        links: links ?? 0,
        joint: draft.joint,
        ...(draft.from === "shelf" && draft.chain ? { stock_item_id: draft.chain } : {}),
        ...(draft.from === "kept" ? { kept_part_id: draft.chain } : {}),
        ...(draft.from === "other" ? { what: draft.what.trim(), ...(width ? { sprockets: width } : {}) } : {}),
        ...(box === undefined ? {} : { box_links: box }),
        ...(draft.halfLink ? { half_link: true } : {}),
        ...(draft.direction.trim() ? { direction: draft.direction.trim() } : {}),
      },
      ...(link ? { joining_link: link } : {}),
      old_chain: draft.old,
      grease: plan.grease,
      checks: checksOf(plan, draft).filter((c) => draft.checks.includes(c)),
      ride_test: draft.ride,
      ...(odometer == null ? {} : { odometer_km: odometer }),
      ...(draft.note.trim() ? { note: draft.note.trim() } : {}),
    };
    for (const part of ["sprockets", "rings", "pulleys"] as const) {
      const what = draft.fitted[part];
      if (what !== null) is[part] = what;
    }
    return { is, faults };
  });

/** How many links are in the box of the chain that is fitted, where that is known. */
export function boxOf(plan: ReplacementPlan, draft: Draft): number | undefined {
  if (draft.from === "kept") return undefined;
  if (draft.from === "other") return wholeOf(draft.box);
  return plan.chains.find((c) => c.id === draft.chain)?.facts.box_links;
}

/** What is looked at before the ride: a joining link is seated only where there is one. What a job does later is not asked. */
export const checksOf = (plan: ReplacementPlan, draft: Draft) =>
  plan.checks.filter((c) => (c !== "joint-seated" || draft.joint === "joining-link") && !plan.later.includes(c));
