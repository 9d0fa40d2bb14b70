import type { Rules, RulesView } from "../../api/client";

// What tests of the rules share: a shop's rules, and what they are held against.

export const rules: Rules = {
  wear_school: "protect",
  wear_places: 3,
  length_unit: "mm",
  distance_unit: "km",
  currency: "EUR",
  factors: { fair: 1, dusty: 1.4, wet: 2, mud: 2.8, salt: 2.8, mid_motor: 1.6 },
  chains_per_set: { half: 4, three_quarter: 2.5, one: 1 },
  classes: [
    { class: "one-sprocket" },
    { class: "wide-chain", limit_pct: 0.8, together_pct: 1, limit_reason: "our roads" },
    {
      class: "narrow-chain",
      chain: 4200,
      sprockets: 11500,
      rings: 0,
      labour_chain: 1400,
      labour_sprockets: 1500,
      labour_rings: 2400,
    },
  ],
  length_method: "wrap",
  sprocket_school: "test-first",
  link_school: "new-each-time",
  grease_school: "by-lubricant",
  session_idle_minutes: 480,
  work: {
    first: "drivetrain-first",
    pressure: "low",
    when: "by-lubricant",
    wash_product: "shampoo",
    crank: "backward",
    cleaner: "by-place",
    oiling: "fitted",
    oil_by: "drops",
    strip: "by-grade",
    parts_washer: false,
    freehub_dry: false,
    blower: false,
    damp: true,
    minutes: { oil: 3 },
    labour_hour: 4800,
    labour_step: 5,
    fixed_route: { soak: 6500 },
    fluids_by: 1.5,
    waste_route: {},
    tax_pct: 20,
    tax_inside: true,
    ask_over_pct: 10,
  },
  intervals: { school: "house", look_ahead_days: 14, changed: { wash: { every_days: 7 } }, own: [] },
  recalls: {
    by_itself: false,
    from: "09:00",
    until: "18:00",
    closed: ["sunday"],
    closed_on: [],
    every_days: 21,
    text: "Hello {owner}: {why}.",
  },
  floor: {
    places: { stand: 2, tub: 2, tank: 1, pot: 1, rack: 3, "parts-washer": 1 },
    hours: {
      monday: [
        { from: "08:30", until: "12:30" },
        { from: "13:00", until: "17:30" },
      ],
      tuesday: [],
      wednesday: [],
      thursday: [],
      friday: [],
      saturday: [{ from: "09:00", until: "13:00" }],
      sunday: [],
    },
    people: {
      p1: {
        skills: ["wash"],
        hours: { monday: [], friday: [{ from: "09:00", until: "12:00" }] },
        away: ["2026-12-24"],
      },
    },
  },
};

export const defaults: RulesView["defaults"] = {
  factors: rules.factors,
  chains_per_set: rules.chains_per_set,
  skills: { owner: ["wash", "drivetrain", "checks"], mechanic: ["wash", "drivetrain", "checks"], apprentice: ["wash"] },
  steps: [
    { code: "oil", title: "One drop a joint", minutes: 2 },
    { code: "index", title: "Index the gears", minutes: 8 },
  ],
  tasks: [
    { code: "relubricate", every_hard_km: 0, every_days: 0, weight: 1.5, safety: false, after: ["squeak"] },
    { code: "wash", every_hard_km: 0, every_days: 21, weight: 1, safety: false, after: [] },
  ],
};
