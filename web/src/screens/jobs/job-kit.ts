import type { Job, JobPlan, StepView } from "../../api/client";
import { justOpened } from "../../outbox/ahead";

// What tests of a job share: one that is planned, with a few steps.

export const plan: JobPlan = {
  route: "soak",
  chain_route: "soak",
  parts_route: "soak",
  wash: "bucket",
  lubricant_next: "oil",
  recommended: "soak",
  reasons: ["grade"],
  hands_min: 61,
  ready_min: 140,
  cautions: ["fingers", "gloves"],
  tools: ["jar"],
  uses: [{ material: "degreaser", amount: 167, unit: "ml", water_ml: 83 }],
  misses: ["behind-crank"],
  relubricate_km: 167.4,
  quote: {
    currency: "EUR",
    lines: [{ kind: "labour", code: "soak", count: 65, amount: 5200 }],
    total: 6500,
    unpriced: [],
    saved_min: 12,
    saved_money: 960,
  },
};

export const step = (code: string, part: Partial<StepView> = {}): StepView => ({
  code,
  phase: "degrease",
  title: `Step ${code}`,
  do: `Do ${code}.`,
  why: "Because.",
  minutes: 2,
  station: "stand",
  tools: [],
  amounts: [],
  cautions: [],
  done: `${code} is done`,
  before: [],
  holding: [],
  state: "open",
  standing: "blocked",
  round: 1,
  ...part,
});

export const job = (part: Partial<Job> = {}): Job => ({
  ...structuredClone(justOpened),
  id: "j1",
  tag: "B-0077-R",
  customer: { id: "o1", name: "Ottoline Brack" },
  bike: "Brinewell Coble oyster",
  state: "planned",
  created_at: "2026-03-03T10:00:00Z",
  route: "soak",
  done: 1,
  steps: 3,
  open_checks: 1,
  left_min: 30,
  version: 2,
  intake: { frame_grade: 3, drivetrain_grade: 3, complaints: ["gritty"], wants: "by four" },
  plan,
  bill: plan.quote,
  may: ["work", "hand-back", "release"],
  hands_min: 61,
  worked_min: 24,
  ...part,
});

export const words = {
  complaints: [{ code: "gritty", says: "Gritty, grinding", check: "Flex it." }],
  findings: [
    { code: "pads-worn", says: "Pads below their mark", severity: "stop" as const, fixed: true },
    { code: "tyre-cut", says: "Tyre cut or worn", severity: "soon" as const, fixed: false },
  ],
};
