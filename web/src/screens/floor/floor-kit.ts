import type { Floor, FloorJob, FloorStint } from "../../api/client";

// A floor for tests: a Tuesday in spring, two people, two jobs, as seen at ten.

export const at = (clock: string, day = "2026-05-05") => new Date(`${day}T${clock}`).toISOString();

export const stint = (part: Partial<FloorStint>): FloorStint => ({
  job: "j1",
  tag: "B-0142-K",
  bike: "Pellowe Ketch ivory",
  step: "floor",
  title: "Protect the floor",
  phase: "intake",
  person: "p1",
  start: at("10:00"),
  end: at("10:10"),
  minutes: 10,
  steps: 1,
  state: "planned",
  ...part,
});

export const floorJob = (part: Partial<FloorJob>): FloorJob => ({
  job: "j1",
  tag: "B-0142-K",
  customer: { id: "o1", name: "Tamsin Overcliffe" },
  bike: "Pellowe Ketch ivory",
  version: 3,
  promised_at: at("16:00"),
  finish_at: at("15:20"),
  ...part,
});

const hours = ["2026-05-05", "2026-05-06", "2026-05-08"].flatMap((d) => [
  { from: at("08:30", d), until: at("12:30", d) },
  { from: at("13:00", d), until: at("17:30", d) },
]);
const person = (id: string, name: string, role: "mechanic" | "apprentice") => ({ id, name, role });

export function floor(part: Partial<Floor> = {}): Floor {
  const ready = stint({ state: "ready", goes_on: "Cleaner on" });
  const washing = stint({
    job: "j2",
    tag: "B-0077-R",
    step: "agitate",
    title: "Brush, top down",
    person: "p2",
    start: at("09:50"),
    state: "begun",
  });
  return {
    now: at("10:00"),
    made_at: at("09:58"),
    until: "2099-01-01T00:00:00Z",
    people: [
      { person: person("p2", "Posy Peake", "apprentice"), hours, here: true, at: washing, also: [], away: [] },
      { person: person("p1", "Mira Oxenholt", "mechanic"), hours, here: true, next: ready, also: [], away: [] },
    ],
    places: [
      { place: "stand", count: 2 },
      { place: "tub", count: 2 },
      { place: "pot", count: 1 },
    ],
    stints: [
      stint({ step: "check", title: "Measured", start: at("08:40"), end: at("08:50"), state: "done" }),
      washing,
      ready,
      stint({ step: "cleaner-on", title: "Cleaner on", start: at("10:10"), end: at("10:13"), minutes: 3 }),
      stint({ step: "oil", title: "Oil", start: at("14:00"), end: at("14:05"), minutes: 5, kept_for: true }),
    ],
    stays: [
      {
        job: "j1",
        tag: "B-0142-K",
        place: "stand",
        unit: 0,
        title: "Protect the floor",
        from: at("10:00"),
        until: at("10:20"),
        waits: false,
      },
      {
        job: "j2",
        tag: "B-0077-R",
        place: "tub",
        unit: 1,
        title: "Chain into the jar",
        from: at("09:40"),
        until: at("11:10"),
        waits: true,
      },
    ],
    jobs: [floorJob({}), floorJob({ job: "j2", tag: "B-0077-R", promised_at: at("16:10") })],
    not_placed: [],
    moved: [],
    because: [],
    helps: [],
    ...part,
  };
}
