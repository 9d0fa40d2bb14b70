import createClient from "openapi-fetch";
import { inShopUnits } from "../ui/units";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Bike = Schemas["Bike"];
export type BikeFacts = Schemas["BikeFacts"];
export type BikeRow = Schemas["BikeRow"];
export type Customer = Schemas["Customer"];
export type CustomerFacts = Schemas["CustomerFacts"];
export type Person = Schemas["Person"];
export type Session = Schemas["Session"];
export type StaffMember = Schemas["StaffMember"];
export type StaffState = Schemas["StaffState"];
export type Device = Schemas["Device"];
export type Permission = Schemas["Permission"];
export type Permissions = Schemas["Permissions"];
export type Waiting = Schemas["Waiting"];
export type WaitingItem = Schemas["WaitingItem"];
export type CustomerHistory = Schemas["CustomerHistory"];
export type FirstShop = Schemas["FirstShop"];
export type SetUpStep = Schemas["SetUpStep"];
export type SettingChange = Schemas["SettingChange"];
export type Role = Schemas["Role"];
export type Instrument = Schemas["Instrument"];
export type BenchQuestion = Schemas["BenchQuestion"];
export type BenchAnswer = Schemas["BenchAnswer"];
export type BenchEntry = Schemas["BenchEntry"];
export type NewMeasurement = Schemas["NewMeasurement"];
export type Measurement = Schemas["Measurement"];
export type LedgerEntry = Schemas["LedgerEntry"];
export type WearAnswer = Schemas["WearAnswer"];
export type WearReason = Schemas["WearReason"];
export type Strip = Schemas["Strip"];
export type WearTrack = Schemas["WearTrack"];
export type Verdict = Schemas["Verdict"];
export type DrivetrainClass = Schemas["DrivetrainClass"];
export type Rules = Schemas["Rules"];
export type RulesView = Schemas["RulesView"];
export type ClassRule = Schemas["ClassRule"];
export type BikeCosts = Schemas["BikeCosts"];
export type InstrumentFacts = Schemas["InstrumentFacts"];
export type ZeroReading = Schemas["ZeroReading"];
export type Mix = Schemas["Mix"];
export type MixQuestion = Schemas["MixQuestion"];
export type MixAnswer = Schemas["MixAnswer"];
export type Condition = Schemas["Condition"];
export type CleaningPlan = Schemas["CleaningPlan"];
export type GearAnswer = Schemas["GearAnswer"];
export type GearState = Schemas["GearState"];
export type GearPath = NonNullable<GearAnswer["path"]>;
export type LengthAnswer = Schemas["LengthAnswer"];
export type SizerQuestion = Schemas["SizerQuestion"];
export type SizerAnswer = Schemas["SizerAnswer"];
export type ReplacementPlan = Schemas["ReplacementPlan"];
export type Replacement = Schemas["Replacement"];
export type NewLink = Schemas["NewLink"];
export type ChainPart = Schemas["ChainPart"];
export type FittingCheck = Schemas["FittingCheck"];
export type StockItem = Schemas["StockItem"];
export type StockFacts = Schemas["StockFacts"];
export type Joint = Schemas["Joint"];
export type School = Schemas["School"];
export type ChainState = Schemas["ChainState"];
export type FieldFault = Schemas["FieldFault"];
export type Change = Schemas["Change"];
export type State = ChainState["state"];
export type Job = Schemas["Job"];
export type JobSummary = Schemas["JobSummary"];
export type JobPart = Schemas["JobPart"];
export type JobPartRow = Schemas["JobPartRow"];
export type DueTask = Schemas["DueTask"];
export type BikeDue = Schemas["BikeDue"];
export type DueRow = Schemas["DueRow"];
export type DuePage = Schemas["DuePage"];
export type Floor = Schemas["Floor"];
export type FloorStint = Schemas["FloorStint"];
export type FloorJob = Floor["jobs"][number];
export type DelayedJob = Schemas["DelayedJob"];
export type FloorRules = Schemas["FloorRules"];
export type FloorTry = Schemas["FloorTry"];
export type FloorCost = Schemas["FloorCost"];
export type Offer = Schemas["Offer"];
export type Sheet = Schemas["Sheet"];
export type Wanted = Schemas["Wanted"];
export type DuePreview = Schemas["DuePreview"];
export type RulesPreview = Schemas["RulesPreview"];
export type ZeroUnderstood = Schemas["ZeroUnderstood"];
export type DueState = Schemas["DueState"];
export type Message = Schemas["Message"];
export type MessageAction = Schemas["MessageAction"];
export type ReceivedMessage = Schemas["ReceivedMessage"];
export type LiveLink = Schemas["LiveLink"];
export type GivenLink = Schemas["GivenLink"];
export type OwnerPage = Schemas["OwnerPage"];
export type OwnerReport = Schemas["OwnerReport"];
export type Intervals = Schemas["Intervals"];
export type Recalls = Schemas["Recalls"];
export type TaskSetting = Schemas["TaskSetting"];
export type RideFile = Schemas["RideFile"];
export type RideQuestion = Schemas["RideQuestion"];
export type RideRow = Schemas["RideRow"];
export type BrokenEntry = Schemas["BrokenEntry"];
export type PassportTaken = Schemas["PassportTaken"];
export type TableRead = Schemas["TableRead"];
export type TableName = Schemas["TableName"];
export type JobOptions = Schemas["JobOptions"];
export type JobOption = Schemas["JobOption"];
export type JobOrder = Schemas["JobOrder"];
export type JobPlan = Schemas["JobPlan"];
export type Quote = Schemas["Quote"];
export type Intake = Schemas["Intake"];
export type StepView = Schemas["StepView"];
export type StepLubricant = Schemas["StepLubricant"];
export type BlockView = Schemas["BlockView"];
export type PlanChange = Schemas["PlanChange"];
export type Way = Schemas["Way"];
export type BlockAction = Schemas["BlockAction"];
export type StepAction = Schemas["StepAction"];
export type LubeFamily = Schemas["LubeAnswer"]["choices"][number]["family"];
export type LubeReason = Schemas["LubeReason"];
export type WaitCode = Schemas["WaitCode"];
export type Station = Schemas["Station"];
export type MaterialCode = Schemas["MaterialCode"];
export type EventCode = Schemas["EventCode"];
export type StepAmount = Schemas["StepAmount"];
export type NewFinding = Schemas["NewFinding"];
export type FindingRow = Schemas["FindingRow"];
export type HandBack = Schemas["HandBack"];
export type Hold = Schemas["Hold"];
export type WaitView = Schemas["WaitView"];
export type WaitAction = Schemas["WaitAction"];
export type Bath = Schemas["Bath"];
export type BathFacts = Schemas["BathFacts"];
export type Material = Schemas["Material"];
export type MaterialFacts = Schemas["MaterialFacts"];
export type WasteRow = Schemas["WasteRow"];
export type Work = Schemas["Work"];
type ProblemBody = Schemas["Problem"];

/** What the server says is wrong; its title is worded for a mechanic. */
export class Problem extends Error {
  readonly body: ProblemBody;
  constructor(body: ProblemBody) {
    super(inShopUnits(body.title));
    this.body = body;
  }
  /** The message about the value at a path, if there is one. */
  at(path: string): string | undefined {
    const said = this.body.fields?.find((f) => f.path === path)?.message;
    return said === undefined ? undefined : inShopUnits(said);
  }
}

/** The server could not be reached: nothing is known of whether it heard. */
export class Unreachable extends Error {
  constructor(says = "The server cannot be reached. What you typed is kept here.") {
    super(says);
  }
}

let underWay: string | undefined;

/** Sends a write under a key: sent again with it, after an answer that was lost, it is still done once. */
export function withKey<T>(key: string, send: () => T): T {
  underWay = key;
  try {
    return send();
  } finally {
    underWay = undefined;
  }
}

/** A request that carries the key of the write under way; one that says its own keeps it. */
class KeyedRequest extends Request {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(input, init);
    if (underWay && this.method !== "GET" && !this.headers.has("Idempotency-Key"))
      this.headers.set("Idempotency-Key", underWay);
  }
}

// fetch is looked up at each call: openapi-fetch would keep the one it saw at import, and stubs in
// tests would be missed.
let way = (request: Request): Promise<Response> => globalThis.fetch(request);

/** Has all requests go another way from now on: the shop's pages keep what is written before it is sent. */
export function sendThrough(other: (request: Request) => Promise<Response>): void {
  way = other;
}

export const api = createClient<paths>({
  baseUrl: "/api/v1",
  Request: KeyedRequest,
  fetch: (request) => way(request),
});

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** Waits for an answer and returns what it holds; throws a Problem or Unreachable. */
export async function ask<T>(answer: Promise<Answer<T>>): Promise<T> {
  let got: Answer<T>;
  try {
    got = await answer;
  } catch (cause) {
    if (cause instanceof DOMException && cause.name === "AbortError") throw cause;
    throw new Unreachable();
  }
  if (got.response.ok) return got.data as T;
  // The server lives and its database does not answer: as if the server could not be reached.
  if (isProblem(got.error) && got.error.code === "database-away") throw new Unreachable(got.error.title);
  if (isProblem(got.error)) throw new Problem(got.error);
  // A proxy in front of a server that is down answers in its own words.
  throw new Unreachable();
}

function isProblem(v: unknown): v is ProblemBody {
  return typeof v === "object" && v !== null && "code" in v && "title" in v;
}

/** A key for one action: sent again it gets the first answer. randomUUID is missing on plain http. */
export function idempotencyKey(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, "0")).join("");
}
