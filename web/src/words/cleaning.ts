import type { CleaningPlan } from "../api/client";

// Routes, grades and what stands at a step, in words.

type Choice = CleaningPlan["choice"];

type RouteName = Choice["route"];

/** What one sees of a grade, worst last. */
export const frameGrades = [
  "Clean",
  "Dust",
  "Road film, splashes",
  "Mud dried on",
  "Caked everywhere, or long stored",
] as const;

export const drivetrainGrades = [
  "A finger on the chain comes off clean",
  "Finger comes off grey; quiet",
  "Black finger; black dirt on the jockey wheels",
  "Grit heard when the chain is flexed; clumps between the sprockets",
  "Sprocket teeth hidden; chain under a dried, peeling film",
] as const;

export const routeWords: Record<RouteName, { name: string; what: string }> = {
  wipe: { name: "Wipe", what: "chain, jockey wheels and chainring wiped, lubed, wiped off" },
  quick: { name: "Quick", what: "on the bike, cleaner on brush and rag" },
  bath: { name: "Clip-on cleaner", what: "chain-bath device on the lower run, degreaser, then soapy water" },
  soak: { name: "Soak", what: "chain off into a jar, wheel out, scraped and brushed" },
  "parts-off": {
    name: "Cassette and jockey wheels off",
    what: "chain, cassette and jockey wheels off, the crank brushed where it is",
  },
  strip: { name: "Full strip-down", what: "everything off, each part by itself, looked at, rebuilt" },
  tray: { name: "Tray", what: "chain off into a tray, brushed and rinsed; cassette brushed where it sits" },
  rewax: { name: "Wax again", what: "chain off, the old wax out in hot water, back into the pot" },
  bare: { name: "Bare chain for wax", what: "the chain to bare metal, for wax" },
};

/** What a route is where the chain is replaced: it serves the parts that stay. */
export const partsWords: Record<RouteName, string> = {
  wipe: "old chain off; chainring and jockey wheels wiped; new chain on",
  quick: "old chain off; cassette, jockey wheels and chainrings brushed; new chain on",
  bath: "old chain off, wheel out; cassette, jockey wheels and chainrings brushed; new chain on",
  soak: "old chain off, wheel out; cassette, jockey wheels and chainrings scraped and brushed; new chain on",
  "parts-off": "old chain off; cassette and jockey wheels off and cleaned, the crank brushed; new chain on",
  strip: "everything off, each part by itself, looked at, rebuilt with the new chain",
  tray: "old chain off; cassette brushed where it sits, jockey wheels and chainrings wiped; new chain on",
  rewax: "the new chain to bare metal, for wax",
  bare: "the new chain to bare metal, for wax",
};

export const washWords: Record<Choice["wash"], string> = {
  "dry-wipe": "Dry wipe",
  bucket: "Bucket",
  hose: "Hose",
  "low-pressure-washer": "Low-pressure washer",
  none: "None: the drivetrain only",
};

const places: Record<string, string> = {
  "joints-inside": "inside of the rollers",
  "rollers-inside": "inside of the rollers, mostly",
  "ring-backs": "backs of the chainrings",
  "bottom-bracket": "bottom bracket area",
  "under-chain-guide": "under a chain guide",
  "behind-crank": "behind the crank",
  "cassette-inner-side": "the cassette's inner side",
  "sprocket-back": "back of the sprocket",
  "clutch-inside": "inside the clutch",
  "derailleur-inside": "inside the derailleur",
  "what-stays-comes-back": "what stays behind dirties the clean chain again",
  "pulley-bearings": "jockey wheel bearings",
  "all-but-the-chain": "anything but the chain",
};

const whys: Record<string, string> = {
  grade: "The lightest that covers this grade.",
  "lubricant-changes": "Another lubricant goes on: one step further.",
  "coat-is-not-known": "It is not known what is on it, so it counts as a change.",
  "deep-clean-due": "The deep clean is past due: off the bike.",
  "no-oil-under-wax": "Drip wax goes over no oil: soaked off the bike until a white rag stays white.",
  "wax-off-in-water": "A degreaser brush does not lift immersion wax: hot water first, off the bike.",
  "waxed-again":
    "A waxed chain with no oil and no grit on it: hot water takes the old wax off, then back into the pot.",
  "top-up": "Only a top-up: the chain is wiped and drip wax goes over the wax that is on.",
  "change-put-off": "Wax cannot come off a chain that stays on: topped up with drip wax until there is a joining link.",
  "only-a-clean-waxed-chain": "only a waxed chain without grit, oil or deep rust",
  "no-cassette-here": "there is no cassette to take off",
  "acid-needs-link": "Tarnished: the acid bath is off the bike only. Order a joining link.",
  "wipe-rust-and-wax": "Light rust: wipe it off and wax the chain anew, never oil.",
  "settle-wear-first": "The reading settles nothing: measure again before more than a quick clean.",
  "time-is-short": "Time is short: a tray reaches more in half an hour than anything on the bike.",
  "not-in-time": "not ready by then",
  "seals-not-looked-at": "nobody looked at the seals",
  "wax-needs-bare": "Wax holds on bare, dry metal only.",
  "film-needs-solvent": "Degreaser does not lift a dried film: a solvent made for it, then bare metal.",
  "chain-is-replaced": "The chain is replaced, so it only gets a wipe; the rest is done for the parts that stay.",
  "no-joining-link": "No joining link on it and none on the shelf: a bath is the most until one is here.",
  "acid-refused": "Tarnished: no acid on mid-motor, cargo and child-carrying bikes. Brush and oil it, or replace it.",
  "rust-past-saving": "Pitted or stiff with rust: the chain goes.",
  "acid-off-the-bike":
    "Tarnished: citric bath off the bike, looked at every hour, 12 h at most, then neutralise, rinse, dry and lubricate at once.",
  "oil-and-wipe-rust": "Light rust: oil it and wipe it off.",
  complaint: "What the customer hears or feels is deeper than the grade says.",
  "pre-rinse-the-frame": "Mud on the frame: rinse loose grit off before anything is opened.",
  "too-light": "too light for this grade",
  "serves-chain-only": "does the chain alone",
  "pressure-not-here": "not by this shop's rule",
  "no-washer-at-motor": "never at motor, battery, display or switches",
  "no-wax-over-oil": "Wax does not go over oil: the chain must be bare first, so it stays with oil this time.",
  "house-cleans-on-the-bike": "This shop cleans on the bike: the clip-on cleaner is the most that is done.",
  "label-allows-no-long-soak": "the degreaser's label does not allow a soak beyond two hours",
  "frame-needs-more": "dried dirt scratches when wiped",
};

const cautions: Record<string, string> = {
  electric:
    "Motor: power off, battery as its maker says before lifting or wetting. No jet at motor, battery, display or contacts.",
  lifting: "Heavy bike: two people or a lift.",
  carry: "Carries cargo or children: stricter limits, and a second person signs the release.",
  fingers:
    "Back-pedal by hand, rag away from where chain meets teeth. Never on a fixed gear or with a motor on: chain off, or wheel out with the dummy hub.",
  gloves: "Nitrile gloves and eye protection.",
  air: "Solvent or alcohol: ventilate; no flame, spark or heater; soaked rags in a closed metal bin. Never petrol.",
  tank: "Ultrasonic or heated tank: water-based fluid only, never flammable. Lid on, hands out.",
  acid: "Acid into water, never water onto acid; never with chlorine cleaners.",
  brakes: "Cover or remove rotor and pads. Test both brakes before the bike leaves.",
  "brakes-hold": "Both brakes hold before the bike leaves. Oil on a pad: it may have to be replaced.",
  pressure: "At a distance, never at bearings, seals or skin.",
  "hot-wax": "Chain bone dry before the pot. Thermostat and alarm; lid at hand; no water, no flame, never unattended.",
  scald: "Near-boiling water: gloves, face away, pour low; never near the wax pot.",
  joint: "Seat and load-test the joining link: a chain that opens throws the rider.",
  torque: "Torque: the part's own marking wins.",
  load: "A new chain on a worn cassette skips under load: warn the rider.",
  waste: "Spent fluid into its container, never to drain or ground.",
};

const said = (words: Record<string, string>) => (code: string) => words[code] ?? code.replaceAll("-", " ");

const placeWords = said(places);

/** What a route leaves dirty, in a sentence; nothing of one that is too light for the grade and whose places are all reached. */
export function reachWords(misses: readonly string[], against: readonly string[]): string | undefined {
  if (misses.length > 0) return `Does not reach: ${misses.map(placeWords).join(", ")}.`;
  return against.includes("too-light") ? undefined : "Reaches all of it.";
}

export const whyWords = said(whys);

export const cautionWords = said(cautions);

export const coatWords = {
  oil: "Oil",
  "drip-wax": "Drip wax",
  "immersion-wax": "Immersion wax",
  "factory-grease": "Factory grease",
  "polymer-film": "Dried polymer film",
  unknown: "Not known",
} as const;

export const rustWords = {
  none: "None",
  light: "Orange, wipes off",
  tarnished: "Does not wipe off",
  pitted: "Pitted or stiff",
} as const;

/** The phases of a job as its owner is told of them. */
export const phaseToldWords: Record<string, string> = {
  intake: "Looked it over",
  "chain-off": "Took the chain off",
  apart: "Took it apart",
  degrease: "Cleaned the drivetrain",
  wash: "Washed it",
  "chain-clean": "Cleaned the chain",
  rebuild: "Cleaned the parts and put them back",
  dry: "Dried it",
  lubricate: "Lubricated the chain",
  finish: "Checked it at the end",
};
