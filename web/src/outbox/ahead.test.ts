import { expect, it } from "vitest";
import type { Job, Schemas } from "../api/client";
import { ahead, opened } from "./ahead";
import { isProvisional, newId, provisionalTag } from "./ids";
import { type Kept, kinds, operationAt } from "./kinds";
import presses from "./testdata/presses.json";

const me = "Mira Oxenholt";

/** How a job stands, as the server's tests say it. */
const standingOf = (j: Job) => ({
  steps: Object.fromEntries(j.step_list.map((s) => [s.code, `${s.state} ${s.standing} round ${s.round}`])),
  blocks: Object.fromEntries(j.blocks.map((b) => [b.code, b.standing])),
  block: j.block ?? "",
  next: j.next_block ?? "",
  current: j.current,
  waits: j.waits.map((w) => `${w.step} until ${w.least_at.replace(/\.\d+Z$/, "Z")}`).toSorted(),
  holds: j.holds.map((h) => `${h.code} ${h.what}`),
});

for (const [n, worked] of presses.jobs.entries())
  it(`foresees what the server answers to each press of a whole job: ${n + 1}, ${worked.job.route}`, () => {
    const job = worked.job as unknown as Job;
    const kept: Kept[] = [];
    for (const [i, p] of worked.presses.entries()) {
      kept.push({
        order: i,
        key: `press-${i}`,
        operation: p.operation as Kept["operation"],
        method: kinds[p.operation as Kept["operation"]].method,
        path: p.path,
        type: null,
        body: JSON.stringify(p.body),
        author: { id: "p1", name: me },
        at: Date.parse(p.at) - 5000,
        behind: 5000,
        job: job.id,
        words: "",
        needs: [],
      });
      const foreseen = ahead(job, kept, me, Date.parse(p.at), presses.words as Schemas["JobWords"]);
      expect(standingOf(foreseen), `${i}: ${p.operation} ${p.path} ${JSON.stringify(p.body)}`).toEqual(p.after);
    }
  });

it("knows each of its operations by its address, and none else", () => {
  const id = newId();
  const at = (method: string, path: string) => operationAt(method, path)?.operation;
  expect(at("POST", `/jobs/${id}/blocks/floor`)).toBe("doBlock");
  expect(at("POST", "/bikes/B-0001-C/jobs")).toBe("openJob");
  expect(at("PUT", `/jobs/${id}/findings/${id}`)).toBe("resolveFinding");
  for (const [method, path] of [
    ["GET", `/jobs/${id}`],
    ["PUT", `/jobs/${id}/plan`],
    ["POST", `/measurements/${id}/countersign`],
    ["POST", `/ledger/${id}/strike`],
    ["PUT", `/staff/${id}`],
    ["POST", "/jobs/x/notes"],
  ] as const)
    expect(at(method, path), path).toBeUndefined();
});

it("names what is made here as nobody else does", () => {
  const ids = Array.from({ length: 200 }, () => newId());
  expect(new Set(ids).size).toBe(200);
  for (const id of ids) expect(id).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  const early = newId(Date.UTC(2026, 0, 1));
  expect(early < newId(Date.UTC(2026, 0, 2))).toBe(true);
  for (let i = 0; i < 50; i++) expect(isProvisional(provisionalTag())).toBe(true);
  const k = { path: "/bikes/NEW-7Q2M4K/jobs?id=a", method: "POST", body: "{}", at: 0, behind: 0, key: "k" } as Kept;
  expect(opened(k, undefined).state).toBe("arrived");
});
