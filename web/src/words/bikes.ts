import type { BikeFacts, BikeRow } from "../api/client";
import type { Distance } from "../ui/distance";
import { whole } from "../ui/format";

// A bike and how it is ridden, in words.

/** What a fact can be where it is known. */
type Known<Fact extends keyof BikeFacts> = Exclude<NonNullable<BikeFacts[Fact]>, "">;

export const bikeKindWords: Record<Known<"kind">, string> = {
  everyday: "everyday",
  road: "road",
  gravel: "gravel",
  trail: "trail",
  cargo: "cargo",
  "child-carrying": "child-carrying",
  "hub-gear": "hub gear",
  "fixed-gear": "fixed gear",
};

export const drivetrainWords: Record<Known<"drivetrain_kind">, string> = {
  derailleur: "derailleur",
  "single-speed": "single-speed",
  "hub-gear": "hub gear",
};

export const motorWords: Record<Known<"motor">, string> = { none: "no motor", hub: "hub motor", mid: "mid motor" };

export const lubricantWords: Record<Known<"lubricant">, string> = {
  "wet-oil": "wet oil",
  "dry-oil": "dry oil",
  "all-weather": "all-weather oil",
  "drip-wax": "drip wax",
  "immersion-wax": "immersion wax",
  "factory-grease": "factory grease",
};

export const careWords: Record<Known<"care">, string> = {
  neglected: "neglected, lubricated when it squeals",
  "now-and-then": "oil on top of dirt, now and then",
  oil: "oil, cleaned and wiped regularly",
  "drip-wax": "drip wax, kept clean",
  "immersion-wax": "immersion wax, on time",
};

export const mixWords = { fair: "fair", dusty: "dusty", wet: "wet", mud: "mud", salt: "salt" } as const;

/** What a fact of a bike or customer is called, for the ledger and for comparing versions. */
export const factWords: Record<string, string> = {
  make: "make",
  model: "model",
  colour: "colour",
  frame_number: "frame number",
  kind: "kind",
  drivetrain_kind: "gears",
  sprocket_count: "sprockets",
  sprocket_teeth: "sprocket teeth",
  ring_teeth: "chainring teeth",
  chainstay_mm: "chainstay",
  chainstay_growth_mm: "chainstay growth",
  cage_mm: "cage",
  clutch: "clutch",
  capacity_teeth: "capacity",
  chain_links: "links in the chain",
  brakes: "brakes",
  motor: "motor",
  lubricant: "lubricant",
  weekly_km: "weekly distance",
  care: "care",
  mix: "riding",
  limit_pct: "own limit",
  together_pct: "own together line",
  limit_source: "whose limit",
  wear_school: "school of its own",
  sprockets: "sprockets",
  quantity: "on the shelf",
  low_mark: "order at",
  cost: "cost of one",
  box_links: "links in the box",
  has_joining_link: "joining link in the box",
  stated_uses: "uses stated",
  limit_reason: "why its own rule",
  notes: "notes",
  owner: "owner",
  photo: "photo",
  name: "name",
  phone: "phone",
  email: "mail",
  contact_way: "how to contact",
  consent: "consent",
  spreads: "whether it spreads the rollers",
  marks_pct: "marks",
  wear_places: "places round a chain",
  length_unit: "unit of length",
  distance_unit: "unit of distance",
  temperature_unit: "unit of temperature",
  volume_unit: "unit of volume",
  mass_unit: "unit of weight",
  time_zone: "time zone",
  locale: "how numbers and dates are written",
  currency: "currency",
  factors: "factors of wear km",
  chains_per_set: "chains a cassette lasts",
  classes: "lines and prices by drivetrain",
  length_method: "how a chain is sized",
  sprocket_school: "when the cassette goes with it",
  link_school: "joining links",
  grease_school: "a new chain's grease",
  session_idle_minutes: "minutes until signed out",
};

/** The bike in one line: make, model, colour. */
export function bikeName(b: Pick<BikeRow, "make" | "model" | "colour"> | BikeFacts): string {
  const name = [b.make, b.model].filter(Boolean).join(" ");
  return [name, b.colour].filter(Boolean).join(", ") || "make not noted";
}

/** Gears, brakes and motor in one line; what is not known is left out. */
export function drivetrainLine(f: BikeFacts): string {
  const parts: string[] = [];
  if (f.drivetrain_kind === "derailleur" && f.sprocket_count) {
    parts.push(`${f.ring_teeth?.length ? f.ring_teeth.length : "?"}×${f.sprocket_count}`);
  } else if (f.drivetrain_kind) parts.push(drivetrainWords[f.drivetrain_kind] ?? "");
  if (f.ring_teeth?.length)
    parts.push(`${f.ring_teeth.length > 1 ? "chainrings" : "chainring"} ${f.ring_teeth.join("/")}`);
  const teeth = f.sprocket_teeth ?? [];
  if (teeth.length === 1) parts.push(`sprocket ${teeth[0]}`);
  if (teeth.length > 1) parts.push(`cassette ${teeth[0]}–${teeth.at(-1)}`);
  if (f.brakes) parts.push(f.brakes);
  if (f.motor) parts.push(motorWords[f.motor] ?? "");
  return unbroken(parts) || "drivetrain not noted yet";
}

/** How the bike is ridden and kept, in one line. */
export function ridingLine(f: BikeFacts, d: Distance): string {
  const parts: string[] = [];
  if (f.weekly_km !== undefined) parts.push(`${whole(d.of(f.weekly_km))} ${d.unit} a week`);
  if (f.mix) parts.push(mixLine(f.mix));
  if (f.lubricant) parts.push(lubricantWords[f.lubricant] ?? "");
  return unbroken(parts);
}

/** Shares of riding, the largest first: 60 % fair, 40 % wet. */
export const mixLine = (m: NonNullable<BikeFacts["mix"]>) =>
  Object.entries(mixWords)
    .map(([key, word]) => ({ word, share: m[key as keyof typeof mixWords] }))
    .filter((x) => x.share > 0.005)
    .sort((a, b) => b.share - a.share)
    .map((x) => `${Math.round(100 * x.share)} % ${x.word}`)
    .join(", ");

/** Facts side by side; a line breaks between them and not within one. */
const unbroken = (parts: string[]) =>
  parts.map((p) => p.replaceAll(" ", "\u00a0").replaceAll(",\u00a0", ", ")).join(" · ");

/** A chain or a joining link by how many rear sprockets its width is for. */
export const speeds = (n: number) => (n === 1 ? "single-speed" : `${n}-speed`);
