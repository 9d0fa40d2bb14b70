import type {
  BenchAnswer,
  BenchEntry,
  DrivetrainClass,
  Measurement,
  School,
  Verdict,
  WearAnswer,
  WearReason,
  WearTrack,
} from "../api/client";
import type { Distance } from "../ui/distance";
import { about, percent, shortDay } from "../ui/format";
import { now as moment } from "../ui/shop";
import { read as length } from "../ui/units";

// What a reading means, in a mechanic's words.

export const verdictWords: Record<Verdict, string> = {
  ok: "OK, ride it",
  watch: "Near the limit",
  unsure: "Can't tell yet",
  replace: "Replace the chain",
  "replace-together": "Replace chain and cassette",
};

export const schoolWords: Record<School, { name: string; why: string }> = {
  protect: { name: "Protect", why: "narrow chains and expensive cassettes: change early" },
  half: { name: "Change at half", why: "change while the rollers still turn freely; past 0.5 % wear speeds up" },
  "three-quarter": { name: "Three-quarter", why: "longest chain life, some sprocket life given up" },
  "run-out": { name: "Run it out", why: "a cheap drivetrain run to its end and replaced whole" },
};

const findingNames: Record<string, string> = {
  "skips-on-new-chain": "Skips on a new chain",
  "hooked-teeth": "Hooked teeth",
  "broken-teeth": "Broken teeth",
  "cracked-plate": "Cracked plate",
  "stiff-link": "Stiff link that stays",
  "rust-pitting": "Rust pitting",
  noise: "Noise",
  "uneven-wear": "Uneven wear",
  "surface-rust": "Surface rust",
  "chipped-tooth": "Chipped tooth",
  "side-slack": "Side slack",
};

/** A finding in words; one the page does not know is shown as it was written. */
export const findingWords = (code: string) => findingNames[code] ?? code.replaceAll("-", " ");

export const classWords: Record<DrivetrainClass, { name: string; short: string }> = {
  "one-sprocket": { name: "Single-speed and hub gear", short: "one" },
  "wide-chain": { name: "Derailleur, 10-speed or fewer", short: "up to 10" },
  "narrow-chain": { name: "Derailleur, 11-speed and more", short: "11 and more" },
};

/** Whose limit a line on the track is. */
export const limitWords: Record<NonNullable<WearTrack["limit_from"]>, string> = {
  school: "limit for this chain",
  shop: "the shop's own limit",
  bike: "this bike's own limit",
  maker: "the maker's limit",
};

export const lookWords: Record<NonNullable<BenchEntry["look"]>, string> = {
  flush: "Lies flush",
  daylight: "Daylight under it",
  "clears-tooth": "Clears a tooth",
};

/** An interval in words: from the one edge to the other. */
export const intervalWords = (low: number, high: number | null | undefined) =>
  high == null
    ? `${percent(low)} % or more`
    : low <= 0
      ? `under ${percent(high)} %`
      : `${percent(low)} to ${percent(high)} %`;

/** What was read, in one line: 0.44 % ± 0.05. */
export function wearLine(w: Pick<WearAnswer, "elongation_pct" | "sigma_pct" | "interval">): string {
  if (w.elongation_pct !== undefined) return `${percent(w.elongation_pct)} % ± ${percent(w.sigma_pct ?? 0)}`;
  if (w.interval) return intervalWords(w.interval.low_pct, w.interval.high_pct);
  return "";
}

const chance = (p = 0) => {
  const outOf = Math.round(100 * p);
  if (outOf <= 0) return "less than 1 in 100";
  if (outOf >= 100) return "more than 99 in 100";
  return `${outOf} in 100`;
};

const reason = (w: WearAnswer, code: WearReason["code"]) => w.reasons.find((r) => r.code === code);

/** Whether the tool found no upper edge: wear may be far beyond its largest mark. */
const openAbove = (w: WearAnswer) => w.interval !== undefined && w.interval.high_pct === null;

/** The verdict in one sentence, for the mechanic or in the owner's words. */
export function verdictSentence(w: WearAnswer, to: "mechanic" | "owner" = "mechanic"): string {
  const limit = `${percent(w.limit_pct)} %`;
  const forced = w.reasons.filter((r) => r.code === "finding-forces").map((r) => findingWords(r.finding ?? ""));
  if (forced.length > 0) {
    const seen = forced.join(", ").toLowerCase();
    return w.verdict === "replace-together"
      ? `Seen: ${seen}. Chain and cassette go together whatever the reading; check chainrings and jockey wheels.`
      : `Seen: ${seen}. The chain comes off whatever the reading.`;
  }
  if (reason(w, "screening-only")) return "A look alone neither clears nor condemns a chain. Measure it.";
  if (openAbove(w) && w.verdict === "unsure")
    return `Past ${percent(w.interval?.low_pct ?? 0)} %, but this tool looked no further: the wear may be far beyond.`;
  switch (w.verdict) {
    case "ok": {
      const mark = reason(w, "bounded-only")?.bound_pct;
      if (mark === undefined) return `Well under the limit of ${limit} for this bike.`;
      return to === "owner"
        ? `Worn less than ${percent(mark)} %. On your bike a chain is replaced at ${limit}.`
        : `Under ${percent(mark)} %; this gauge cannot say how far under. The limit here is ${limit}.`;
    }
    case "watch":
      return `Still under the limit of ${limit}, but near it.`;
    case "unsure":
      return `The limit here is ${limit}, and this tool cannot tell on which side of it the chain is. ${w.lean === "replace" ? "It leans to replacing." : "It leans to riding on."}`;
    case "replace":
      return `Past the limit of ${limit}. Replace the chain and ride-test the cassette under load.`;
    case "replace-together":
      return `Past ${percent(w.together_pct)} %, where the cassette has worn with it. Replace both; check chainrings and jockey wheels.`;
  }
}

/** What to do now, one action a line. */
export function whatNow(w: WearAnswer, decided = false): string[] {
  const uneven = reason(w, "worst-place") ? ["Uneven: look for stiff links or a replaced section."] : [];
  const more = decided ? [] : ["Measure more places, or measure with a finer tool."];
  const again = w.reasons.filter((r) => r.code === "recheck-place").map((r) => r.place);
  const first = [
    ...uneven,
    ...(again.length > 0 ? [`Read place ${again.join(" and ")} again before anything is ordered or fitted.`] : []),
  ];
  const order = {
    none: [],
    next: ["Put a chain and a joining link on the next order."],
    now: ["Order a chain and a joining link now."],
  }[w.order ?? (w.verdict === "watch" ? "next" : "none")];
  switch (w.verdict) {
    case "ok":
      return [...first, "Clean and lubricate as planned."];
    case "watch":
      return [...first, ...order];
    case "unsure":
      return [...first, ...(openAbove(w) ? ["Try a larger mark, or measure with a finer tool."] : more), ...order];
    case "replace":
      return [
        ...first,
        ...(reason(w, "set-in-stock") ? ["Have a cassette in stock before the ride test."] : []),
        "Wipe this chain at most: it comes off.",
        "Warn the rider: a new chain on a worn cassette can skip under load.",
      ];
    case "replace-together":
      return [
        ...first,
        "Check chainring teeth and jockey wheels before ordering.",
        "Wipe this chain at most: it comes off.",
      ];
  }
}

/** A reason in words; null for those that the verdict's sentence says already. */
export function reasonWords(r: WearReason): string | null {
  switch (r.code) {
    case "limit-from": {
      const lines = `replace at ${percent(r.at_pct ?? 0)} %, cassette with it past ${percent(r.bound_pct ?? 0)} %`;
      if (r.source === "maker") return `The maker's limit wins here: ${lines}.`;
      if (r.source === "bike") return `This bike has limits of its own: ${lines}.`;
      if (r.source === "shop") return `The shop has lines of its own here: ${lines}.`;
      const school = r.school ? schoolWords[r.school] : undefined;
      return school ? `Shop rule ${school.name} (${school.why}): ${lines}.` : `Limits: ${lines}.`;
    }
    case "chance-past-limit":
      return `${capital(chance(r.chance))} that it is at ${percent(r.bound_pct ?? 0)} % or past it.`;
    case "worst-place":
      return `Uneven: the places differ by more than ${percent(r.bound_pct ?? 0)} %, so the worst, ${percent(r.at_pct ?? 0)} %, is judged.`;
    case "open-above-mark":
      return `The tool looked no further than ${percent(r.at_pct ?? 0)} %.`;
    case "screening-only":
      return "Pulling the chain off the chainring is only a first check.";
    case "finding-forces":
      return `${findingWords(r.finding ?? "")} decides, whatever the reading.`;
    case "rollers-counted":
      return "This tool spreads the rollers and counts their wear in: it reads high.";
    case "new-chain-assumed":
      return `No reading of this chain when new: ± ${percent(r.bound_pct ?? 0)} instead of ± ${percent(r.at_pct ?? 0)} %.`;
    case "recheck-place":
      return `Place ${r.place} reads ${percent(r.at_pct ?? 0)} %, more than ${percent(r.bound_pct ?? 0)} % from the others: look there again.`;
    case "below-new":
      return `Place ${r.place} reads shorter than a new chain: pin centre to pin centre, and the right count?`;
    case "reads-high":
      return `Just past ${percent(r.bound_pct ?? 0)} % by a tool that spreads the rollers: read it with one that does not.`;
    case "set-in-stock":
      return `${capital(chance(r.chance))} that it is past ${percent(r.bound_pct ?? 0)} %, where the cassette goes too.`;
    case "past-together":
      return `${capital(chance(r.chance))} that it is past the line for the cassette.`;
    case "read-as":
    case "bounded-only":
    case "well-below":
    case "near-limit":
    case "tool-cannot-tell":
    case "past-limit":
      return null;
  }
}

const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);

/** A measurement in the ledger's one line. */
export function measurementLine(m: Measurement): string {
  const places = m.readings.length;
  const where =
    places === 1 ? "one place" : `${["", "", "two", "three", "four", "five", "six", "seven", "eight"][places]} places`;
  return `Wear ${wearLine(m.wear)}, ${m.instrument.name}, ${where}`;
}

export const trackMissing: Record<WearTrack["missing"][number], string> = {
  kind: "What gears the bike has is not on record.",
  sprockets: "How many speeds it has is not on record.",
  motor: "Whether a motor pulls the chain is not on record.",
  "chain-fitted": "When this chain was fitted is not on record.",
  distance: "How far it is ridden is not on record: note the odometer, or the customer's weekly distance.",
};

/** What the forecast says, as a person would, in the distance of the road and not in hard kilometres. */
export function trackSentence(t: WearTrack, d: Distance, now = moment()): string {
  const f = t.forecast;
  if (!f) return "No forecast yet.";
  const road = (hard: number) => d.of(hard / t.hard_per_km);
  const guess = f.measured ? "" : "A guess from how the bike is kept, nothing measured yet: ";
  if (f.p_past_limit > 0.5) return "It is most likely past its limit: replace it.";
  if (f.next_check_hard_km === 0) return "It may be past its limit already: look now.";
  const soonest = road(f.left_hard_km.p10) >= 10 ? `, maybe only ${about(road(f.left_hard_km.p10))}` : "";
  const left = `about ${about(road(f.left_hard_km.p50))} ${d.unit} left in weather like this${soonest}.`;
  const by =
    f.next_check_days === undefined
      ? ""
      : `, or by ${shortDay(new Date(now + f.next_check_days * 86_400_000).toISOString(), now)}`;
  return `${guess}${guess ? left : capital(left)} Check again in ${about(road(f.next_check_hard_km))} ${d.unit}${by}.`;
}

/** What to make of readings of both sorts of tools. */
export function biasWords(b: NonNullable<BenchAnswer["bias"]>, now = moment()): string {
  const read =
    b.elongation_pct !== undefined ? `${percent(b.elongation_pct)} %` : intervalWords(b.low_pct ?? 0, b.high_pct);
  const other = `${b.instrument} read ${read} on ${shortDay(b.taken_at, now)}`;
  return b.spreads
    ? `This tool spreads the rollers and reads high. ${other} without spreading them: trust that one more.`
    : `${other}, but spreads the rollers and reads high: trust this one more.`;
}

/** How a reading was understood, before it is saved. */
export function understoodLine(
  u: { length_mm?: number; past_mm?: number; elongation_pct?: number },
  links: number | undefined,
  offset: number,
): string {
  const wear = u.elongation_pct === undefined ? "" : `${percent(u.elongation_pct)} %`;
  if (u.length_mm !== undefined) {
    const past = u.past_mm ?? 0;
    return `${length(u.length_mm)} over ${links} links, ${length(Math.abs(past))} ${past < 0 ? "short of" : "past"} new: ${wear}`;
  }
  return offset === 0 ? `${wear} wear` : `${wear} wear, after the zero offset of ${percent(offset)} %`;
}
