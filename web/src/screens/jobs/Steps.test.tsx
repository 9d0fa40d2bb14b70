import { fireEvent, screen, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Job } from "../../api/client";
import { serve, show } from "../../test-kit";
import { job, step } from "./job-kit";
import { Steps } from "./Steps";

const now = "2026-03-03T10:30:00Z";
const wait = (id: string, code: string, part: Partial<Job["waits"][number]>): Job["waits"][number] => ({
  id,
  step: code,
  what: code,
  began_at: "2026-03-03T10:00:00Z",
  least_at: "2026-03-03T10:20:00Z",
  ...part,
});

it("tells by its shape how each step stands, who is at it, how often it was sent back, and what its wait does", () => {
  serve({ "GET /waits": () => ({ now, waits: [] }) });
  const picked: string[] = [];
  const far = (minutes: number) => new Date(Date.now() + minutes * 60_000).toISOString();
  show(
    <Steps
      inBlocks={false}
      job={job({
        promised_at: "2026-03-04T16:00:00Z",
        step_list: [
          step("floor", { state: "done", standing: "finished" }),
          step("read-wear", { state: "skipped", standing: "finished" }),
          step("bath", { state: "begun", standing: "underway", round: 3, by: "Tobiah Marsh" }),
          step("jar", { state: "done", standing: "finished" }),
          step("dry", { state: "done", standing: "finished" }),
          step("bare", { state: "done", standing: "finished" }),
          step("oil", { standing: "held" }),
          step("brakes-test", { standing: "blocked", gate: true }),
          step("waste", { standing: "ready" }),
        ],
        waits: [
          wait("w1", "jar", { began_at: far(-10), least_at: far(12) }),
          wait("w2", "dry", { began_at: far(-30), least_at: far(-5), most_at: far(40) }),
          wait("w3", "bare", { began_at: far(-90), least_at: far(-90), most_at: far(-30) }),
        ],
      })}
      shown="oil"
      pick={(code) => picked.push(code)}
    />,
  );
  const row = (code: string) => screen.getByTestId(`step-${code}`);
  const sign = (code: string) => within(row(code)).getByRole("img").getAttribute("aria-label");
  expect(["floor", "read-wear", "bath", "oil", "brakes-test", "waste"].map(sign)).toEqual([
    "done",
    "left out",
    "under way",
    "waits",
    "not yet",
    "ready to start",
  ]);
  expect(row("bath").textContent).toBe("Step bath×3Tobiah");
  expect(row("jar").textContent).toMatch(/^Step jar1[12]:\d\d$/);
  expect(row("dry").textContent).toBe("Step drydone");
  expect(row("bare").textContent).toBe("Step barelate");
  expect(row("oil").getAttribute("aria-current")).toBe("step");
  expect(row("floor").getAttribute("aria-current")).toBeNull();
  // A safety check looks like no other step that cannot be begun.
  expect(row("brakes-test").querySelector("circle")).toBeNull();
  fireEvent.click(row("waste"));
  expect(picked).toEqual(["waste"]);
  const bike = screen.getByRole("link", { name: "Open the bike of tag B-0077-R" });
  expect(bike.getAttribute("href")).toBe("/bikes/B-0077-R");
});
