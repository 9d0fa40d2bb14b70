import { expect, it } from "vitest";
import { becauseWords, costWords, helpWords, lateWords } from "./floor";
import { at, floor, floorJob, stint } from "./floor-kit";
import { daysOf, goesOf, hourWidth, railOf, timeAt } from "./rail";

const ms = (clock: string, day?: string) => Date.parse(at(clock, day));
const day = "2026-05-05";

it("lays a day out to true time: people, places, waits, promises, now", () => {
  const rail = railOf(floor(), day, ms("10:00"));
  expect([rail.from, rail.until]).toEqual([ms("08:00"), ms("18:00")]);
  expect(rail.hours.map((h) => h.label)).toEqual(["08", "09", "10", "11", "12", "13", "14", "15", "16", "17", "18"]);
  expect(rail.now).toBeCloseTo(0.2, 9);
  const [posy, mira] = rail.people;
  expect(posy?.label).toBe("Posy Peake");
  // Before opening, the break, and after closing are shaded.
  const off = mira?.marks.filter((m) => m.kind === "off").map((m) => [m.from, m.to]);
  expect(off).toEqual([
    [0, 0.05],
    [0.45, 0.5],
    [0.95, 1],
  ]);
  // What goes on without a pause is one block; what is done, and what comes after a pause, are others.
  const work = mira?.marks.filter((m) => m.kind === "work");
  expect(work?.map((m) => [m.title, m.kind === "work" && m.stint.state])).toEqual([
    ["Measured", "done"],
    ["Protect the floor · Cleaner on", "ready"],
    ["Oil", "planned"],
  ]);
  expect(work?.[1]?.to).toBeCloseTo((ms("10:13") - ms("08:00")) / (10 * 3_600_000), 9);
  // Stands are always there, other places while something is in them, each unit its own lane.
  expect(rail.places.map((l) => [l.label, l.marks.length])).toEqual([
    ["Stand 1", 1],
    ["Stand 2", 0],
    ["Tub 1", 0],
    ["Tub 2", 1],
  ]);
  expect(rail.places[3]?.marks[0]).toMatchObject({ kind: "stay", waits: true, title: "Chain into the jar" });
  // Of promises close together one flies back.
  expect(rail.flags.map((f) => [f.tag, f.row, f.late])).toEqual([
    ["B-0142-K", 0, false],
    ["B-0077-R", 0, false],
  ]);
  expect(timeAt(rail, 0.8076)).toBe(ms("16:00"));
  expect(timeAt(rail, 2)).toBe(ms("18:00"));
});

it("lays no flag over another, at the end of the day as well, where those there fly back", () => {
  const clocks = [
    "09:00",
    "15:50",
    "16:05",
    "16:30",
    "16:45",
    "17:05",
    "17:20",
    "17:40",
    "18:00",
    "18:00",
    "18:00",
    "21:00",
  ];
  const jobs = clocks.map((clock, i) => floorJob({ job: `j${i}`, tag: `B-00${10 + i}-K`, promised_at: at(clock) }));
  const { flags, hours } = railOf(floor({ jobs }), day, ms("10:00"));
  const flag = 54 / (hourWidth * (hours.length - 1));
  expect(flags).toHaveLength(clocks.length);
  expect(flags[0], "where there is room a flag flies on from its time").toMatchObject({ row: 0, back: false });
  const spans = flags.map((f) => ({ ...f, left: f.back ? f.at - flag : f.at, right: f.back ? f.at : f.at + flag }));
  for (const a of spans) {
    expect(a.right, a.tag).toBeLessThanOrEqual(1);
    for (const b of spans)
      if (a !== b && a.row === b.row)
        expect(a.right <= b.left + 1e-9 || b.right <= a.left + 1e-9, `${a.tag} and ${b.tag} in row ${a.row}`).toBe(
          true,
        );
  }
});

it("draws no work narrower than its tag nor over other, and says when a place is full", () => {
  const short = ["10:20", "10:23", "10:26", "11:30"].map((clock, i) =>
    stint({ job: `j${i}`, tag: `B-00${10 + i}-K`, start: at(clock), end: at(clock.replace(/.$/, (d) => `${+d + 2}`)) }),
  );
  const rail = railOf(floor({ stints: short }), day, ms("10:00"));
  const mira = rail.people.find((p) => p.label === "Mira Oxenholt");
  const work = mira?.marks.flatMap((m) => (m.kind === "work" ? [m] : [])) ?? [];
  const tag = 46 / (hourWidth * (rail.hours.length - 1));
  expect([work.map((m) => m.row), mira?.rows]).toEqual([[0, 1, 2, 0], 3]);
  for (const a of work)
    for (const b of work)
      if (a !== b && a.row === b.row) expect(a.from + tag <= b.from || b.from + tag <= a.from).toBe(true);
  expect(rail.contested).toBe(false);
  const stay = floor().stays[0];
  if (!stay) throw new Error("no stay");
  const full = floor({ stays: [stay, { ...stay, job: "j2", unit: 1 }] });
  expect(railOf(full, day, ms("10:00")).contested).toBe(true);
});

it("lists one person's day in goes", () => {
  const goes = goesOf([
    stint({ block: "Look and set up" }),
    stint({ step: "b", block: "Drivetrain on the bike", start: at("10:12"), end: at("10:30"), minutes: 18 }),
    stint({ step: "c", block: "Drivetrain on the bike", start: at("10:30"), end: at("10:34"), minutes: 4 }),
    stint({ step: "d", block: "Lube", start: at("10:40"), end: at("10:44"), minutes: 4 }),
    stint({ job: "j2", step: "e", block: "Wash", start: at("10:44"), end: at("10:54") }),
  ]);
  expect(goes.map((g) => [g.title, g.minutes])).toEqual([
    ["Look and set up · Drivetrain on the bike", 32],
    ["Lube", 4],
    ["Wash", 10],
  ]);
});

it("shows of the past what is near, unless all is asked for, and other days whole", () => {
  const late = floor({ now: at("15:10") });
  expect(railOf(late, day, ms("15:10")).from).toBe(ms("13:00"));
  expect(railOf(late, day, ms("15:10"), true).from).toBe(ms("08:00"));
  expect(daysOf(late)).toEqual([day, "2026-05-06", "2026-05-08"]);
  const friday = railOf(late, "2026-05-08", ms("15:10"));
  expect([friday.now, friday.flags.length, friday.people[0]?.marks.some((m) => m.kind === "work")]).toEqual([
    undefined,
    0,
    false,
  ]);
  // In the small hours the rail is of the day to come, and has no line for now.
  const early = railOf(floor({ now: at("01:20"), stints: [stint({})] }), day, ms("01:20"));
  expect([early.from, early.now]).toEqual([ms("08:00"), undefined]);
  const soon = railOf(floor({ now: at("07:10"), stints: [stint({})] }), day, ms("07:10"));
  expect([soon.from, soon.now === undefined]).toEqual([ms("07:00"), false]);
  // Late in the evening the day goes on past midnight.
  const night = floor({
    now: at("22:30"),
    stints: [stint({ start: at("01:00", "2026-05-06"), end: at("01:30", "2026-05-06") })],
  });
  const on = railOf(night, day, ms("22:30"));
  expect([on.from, on.until]).toEqual([ms("20:00"), ms("02:00", "2026-05-06")]);
  expect(on.people[1]?.marks.some((m) => m.kind === "work")).toBe(true);
  // A promise long after closing does not stretch the day.
  const after = railOf(floor({ jobs: [floorJob({ promised_at: at("23:30") })] }), day, ms("10:00"));
  expect([after.until, after.flags[0]?.at]).toEqual([ms("18:00"), 1]);
  // With nothing on it a day still has a length.
  const empty = railOf(floor({ people: [], stints: [], jobs: [], stays: [] }), "2026-05-10", ms("10:00"));
  expect([empty.from, empty.until]).toEqual([ms("08:00", "2026-05-10"), ms("18:00", "2026-05-10")]);
});

it("says what is late and why, what would help, what moved it, and what a change costs", () => {
  const f = floor({
    jobs: [
      floorJob({ late_min: 20, bound_by: "place", bound_what: "tub" }),
      floorJob({
        job: "j2",
        tag: "B-0077-R",
        late_min: 5,
        bound_by: "person",
        bound_what: "Mira Oxenholt",
        waiting: true,
      }),
      floorJob({ job: "j3", tag: "B-0031-W", late_min: 90, bound_by: "wait", bound_what: "Chain into the jar" }),
      floorJob({ job: "j4" }),
    ],
    helps: [{ place: "tub", save_min: 35 }],
    stints: [stint({})],
  });
  expect(lateWords(f).map((l) => l.says)).toEqual([
    "would be 20 min late: every tub is taken",
    "would be 5 min late: Mira Oxenholt is at other work",
    "would be 1 h 30 min late: “Chain into the jar” takes its time",
  ]);
  expect(helpWords(f)).toBe("One more tub would make up 35 min.");
  expect(helpWords({ ...f, helps: [{ person: "Tobiah Marsh", save_min: 125 }] })).toBe(
    "An hour more of Tobiah Marsh would keep every promise.",
  );
  expect(helpWords({ ...f, helps: [] })).toBeUndefined();
  expect(
    (
      [
        { what: "took-longer", tag: "B-0142-K", title: "Scrub the chain", min: 12 },
        { what: "came", tag: "B-0077-R" },
        { what: "left", min: 1 },
        { what: "not-begun", tag: "B-0142-K", title: "Oil", min: 4 },
        { what: "changed" },
      ] as const
    ).map((b) => becauseWords(b)),
  ).toEqual([
    "“Scrub the chain” of 0142 takes 12 min longer",
    "0077 came in",
    "a job is done or called off",
    "nobody has begun “Oil” of 0142",
    "promises, hours or places changed",
  ]);
  const cost = { moves: 0, pushed: [], saved: [], later_min: 0, kept: true, late_min: 0 };
  expect(costWords(cost)).toBe("It can be kept. Nothing else moves.");
  const owner = "Tamsin Overcliffe";
  expect(
    costWords({
      moves: 3,
      pushed: [{ tag: "B-0077-R", customer: owner, by_min: 15 }],
      saved: [{ tag: "B-0031-W", customer: owner, by_min: 5 }],
      later_min: 70,
      kept: false,
      late_min: 10,
    }),
  ).toBe(
    "It would be 10 min late. It makes late: 0077 by 15 min. It helps: 0031 by 5 min. 3 pieces of work move. All together, jobs are done 70 min later.",
  );
});
