import type { QueryKey } from "@tanstack/react-query";
import type { Change } from "./client";

// The names under which answers are kept, and which of them a change makes old. A longer name lies within a shorter one:
// what makes a bike old makes its wear track old too.

type Filter = Record<string, unknown>;

export const keys = {
  session: ["session"],
  people: ["people"],
  setUp: ["set-up"],
  bikes: ["bikes"],
  bikeList: (filter: Filter) => ["bikes", filter],
  bikesFound: (q: string) => ["bikes", "find", q],
  everyBike: ["bike"],
  bike: (tag: string) => ["bike", tag],
  wearTrack: (tag: string) => ["bike", tag, "track"],
  ledger: (tag: string) => ["bike", tag, "ledger"],
  costs: (tag: string) => ["bike", tag, "costs"],
  replacement: (tag: string) => ["bike", tag, "replacement"],
  cleaningPlan: (tag: string, question: unknown) => ["bike", tag, "cleaning", question],
  bikeDue: (tag: string) => ["bike", tag, "due"],
  bikeReports: (tag: string) => ["bike", tag, "reports"],
  rideDrafts: (tag: string) => ["bike", tag, "ride-drafts"],
  customers: ["customers"],
  customerList: (filter: Filter) => ["customers", filter],
  customersFound: (q: string) => ["customers", "found", q],
  customer: (id: string) => ["customers", id],
  customerHistory: (id: string) => ["customers", id, "history"],
  instruments: ["instruments"],
  retiredInstruments: ["instruments", "retired"],
  instrument: (id: string) => ["instruments", id],
  zeroReading: (id: string, reading: unknown) => ["instruments", id, "zero", reading],
  rules: ["rules"],
  staff: ["rules", "staff"],
  devices: ["rules", "devices"],
  permissions: ["rules", "permissions"],
  settingChanges: ["rules", "changes"],
  rulesPreview: (draft: unknown) => ["rules", "preview", draft],
  rulesPreviewDue: (draft: unknown) => ["rules", "preview-due", draft],
  learnedMinutes: ["rules", "minutes"],
  bench: ["bench"],
  benchAnswer: (question: unknown) => ["bench", question],
  chainLength: (question: unknown) => ["chain-length", question],
  mix: (question: unknown) => ["mix", question],
  stock: ["stock"],
  stockList: (filter: Filter) => ["stock", filter],
  needs: ["stock", "needs"],
  day: ["floor"],
  sheet: (day: string | undefined) => ["floor", "sheet", day ?? "next"],
  dayTried: (what: unknown) => ["floor", "try", what],
  offer: (tag: string, intake: unknown) => ["floor", "offer", tag, intake],
  wanted: (tag: string, intake: unknown) => ["floor", "wanted", tag, intake],
  jobs: ["jobs"],
  job: (id: string) => ["jobs", id],
  routes: (id: string) => ["jobs", id, "routes"],
  bikeJobs: (tag: string) => ["jobs", "of", tag],
  jobWords: ["job-words"],
  waits: ["waits"],
  baths: ["baths"],
  fluids: ["materials"],
  waste: ["waste"],
  due: ["due"],
  dueList: (filter: Filter) => ["due", "list", filter],
  waiting: ["waiting"],
  messages: ["messages"],
  messageList: ["messages", "list"],
  received: ["messages", "received"],
  everyLink: ["links"],
  links: (tag: string | undefined) => ["links", tag ?? ""],
  customersPage: (token: string) => ["customers-page", token],
} as const satisfies Record<string, QueryKey | ((...of: never[]) => QueryKey)>;

type Topic = Change["topic"];

/**
 * What a change makes old, by its topic: what is read from it, and what is worked out from that. A topic that reaches into
 * every answer names none and says which of them it leaves alone.
 */
const old: Record<Topic, (tag: string | undefined) => QueryKey[] | { allBut: QueryKey[] }> = {
  bike: (tag) => [
    tag ? keys.bike(tag) : keys.everyBike,
    keys.bikes,
    keys.due,
    keys.messages, // what is not sent yet follows what is due
    keys.customers,
    keys.bench,
    keys.stock, // a chain that is worn will be needed
    keys.waiting,
    tag ? keys.links(tag) : keys.everyLink,
  ],
  customer: () => [keys.customers, keys.messages, keys.bikes, keys.everyBike, keys.waiting],
  instruments: () => [keys.instruments, keys.bench],
  stock: () => [keys.stock, keys.everyBike], // what a replacement can be made of
  message: () => [keys.messages, keys.due],
  floor: () => [keys.day],
  job: (tag) => [
    keys.day,
    keys.due,
    keys.messages,
    keys.jobs,
    keys.waits,
    keys.fluids, // steps draw from them
    keys.baths,
    keys.waiting,
    keys.customers, // what was done for them
    ...(tag ? [keys.bike(tag)] : []),
  ],
  stores: () => [keys.baths, keys.fluids, keys.waste, keys.jobs], // jobs: what one costs
  rules: () => ({ allBut: [] }), // they reach into every verdict and forecast, and into the session's shop
  everything: () => ({ allBut: [keys.bench] }), // its question is put again as it is typed
};

/** Which kept answers a change makes old. */
export function madeOld({ topic, tag }: Change): (key: QueryKey) => boolean {
  const within = (key: QueryKey) => (whole: QueryKey) => whole.every((part, i) => key[i] === part);
  const of = old[topic](tag);
  return Array.isArray(of) ? (key) => of.some(within(key)) : (key) => !of.allBut.some(within(key));
}
