import { expect, it } from "vitest";
import type { WearAnswer, WearTrack } from "../api/client";
import { distanceIn } from "../ui/distance";
import { ago, percent, shortDay, shortName } from "../ui/format";
import { read } from "../ui/units";
import { reasonWords, trackSentence, understoodLine, verdictSentence, wearLine, whatNow } from "../words/wear";

const worn: WearAnswer = {
  elongation_pct: 0.52493,
  sigma_pct: 0.067,
  limit_pct: 0.5,
  together_pct: 0.75,
  p_limit: 0.585,
  p_together: 0.03,
  verdict: "unsure",
  reasons: [{ code: "limit-from", at_pct: 0.5, bound_pct: 0.75, source: "school", school: "protect" }],
  other_schools: [],
};

it("says numbers as they are read at the bench", () => {
  expect(wearLine(worn)).toBe("0.52 % ± 0.07");
  expect(wearLine({ interval: { low_pct: 0.5, high_pct: 0.75, edge_pct: 0.04 } })).toBe("0.50 to 0.75 %");
  expect(wearLine({ interval: { low_pct: 0, high_pct: 0.5, edge_pct: 0.04 } })).toBe("under 0.50 %");
  expect(wearLine({ interval: { low_pct: 0.75, high_pct: null, edge_pct: 0.04 } })).toBe("0.75 % or more");
  expect([percent(-0.001), percent(-0.05), read(306.4), read(306.3875)]).toEqual([
    "0.00",
    "−0.05",
    "306.4 mm",
    "306.39 mm",
  ]);
  expect(understoodLine({ length_mm: 304.6, past_mm: -0.2, elongation_pct: -0.0656 }, 24, 0)).toBe(
    "304.6 mm over 24 links, 0.2 mm short of new: −0.07 %",
  );
});

it("lets a finding speak before the reading, and gives every verdict something to do", () => {
  const forced: WearAnswer = {
    ...worn,
    verdict: "replace-together",
    reasons: [...worn.reasons, { code: "finding-forces", finding: "hooked-teeth" }],
  };
  expect(verdictSentence(forced)).toContain("hooked teeth");
  expect(verdictSentence(worn)).toContain("0.50 %");
  const bounded: WearAnswer = { ...worn, verdict: "ok", reasons: [{ code: "bounded-only", bound_pct: 0.5 }] };
  expect(verdictSentence(bounded)).toContain("this gauge");
  expect(verdictSentence(bounded, "owner")).not.toContain("gauge"); // an owner knows of none
  for (const verdict of ["ok", "watch", "unsure", "replace", "replace-together"] as const)
    expect(whatNow({ ...worn, verdict }).length).toBeGreaterThan(0);
  expect(whatNow({ ...worn, verdict: "replace" }).join(" ")).toContain("skip under load"); // the caution stands at the step
  expect(reasonWords({ code: "limit-from", at_pct: 0.8, bound_pct: 1.1, source: "maker" })).toContain(
    "maker's limit wins",
  );
});

it("says a forecast in the kilometres of the road, and what it rests on", () => {
  const spread = (p10: number, p50: number, p90: number) => ({ p10, p50, p90 });
  const forecast = {
    left_hard_km: spread(700, 1260, 2000),
    p_past_limit: 0.01,
    next_check_hard_km: 700,
    next_check_days: 50,
    measured: true,
    k_hard_km: spread(1, 2, 3),
    band: [],
    warnings: [],
  };
  const t: WearTrack = {
    now_hard_km: 900,
    hard_per_km: 1.4,
    rate_hard_km_per_day: 14,
    chains: [],
    segments: [],
    parts: { chains: [], sets: [] },
    readings: [],
    both_sorts: false,
    missing: [],
    forecast,
  };
  const now = Date.UTC(2026, 10, 24, 9);
  expect(trackSentence(t, distanceIn("km"), now)).toBe(
    "About 900 km left in weather like this, maybe only 500. Check again in 500 km, or by 13 Jan 2027.",
  );
  expect(trackSentence(t, distanceIn("mi"), now)).toContain("About 560 mi left in weather like this, maybe only 310.");
  expect(trackSentence({ ...t, forecast: { ...forecast, measured: false } }, distanceIn("km"), now)).toContain(
    "A guess from how the bike is kept, nothing measured yet: about 900 km",
  );
  expect(
    trackSentence({ ...t, forecast: { ...forecast, p_past_limit: 0.3, next_check_hard_km: 0 } }, distanceIn("km"), now),
  ).toContain("look now");
  expect(
    trackSentence({ ...t, forecast: { ...forecast, p_past_limit: 0.9, next_check_hard_km: 0 } }, distanceIn("km"), now),
  ).toContain("replace it");
  const { forecast: _, ...without } = t;
  expect(trackSentence(without, distanceIn("km"), now)).toBe("No forecast yet.");
});

it("says days and names as people do", () => {
  const now = Date.UTC(2026, 10, 24, 9);
  const on = (y: number, m: number, d: number, h = 12) => new Date(Date.UTC(y, m, d, h)).toISOString();
  expect(ago(on(2026, 10, 24, 1), now)).toBe("today");
  expect(ago(on(2026, 10, 23, 23), now)).toBe("yesterday");
  expect(ago(on(2026, 9, 31), now)).toBe("24 days ago");
  expect(ago(on(2026, 5, 1), now)).toBe("6 months ago");
  expect(shortDay(on(2025, 10, 2), now)).toBe("02 Nov 2025");
  expect([shortName("Mira Oxenholt"), shortName("Mira")]).toEqual(["Mira O.", "Mira"]);
});
