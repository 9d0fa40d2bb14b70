import type { Role, School, StaffState, Work } from "../api/client";
import { typedMoney } from "../ui/money";
import { routeWords } from "./cleaning";
import { permissionWords, roleWords, stateWords } from "./people";
import { classWords, schoolWords } from "./wear";

// What the settings are called where a change of one is told.

/** The questions of how the shop works, as they are asked and as a change of one is told. */
export const workQuestions = {
  first: "What is cleaned first",
  pressure: "Water under pressure",
  when: "A chain is lubricated again",
  wash_product: "Frames are washed with",
  crank: "In the clip-on cleaner the crank turns",
  cleaner: "Cleaner and degreaser go on",
  oiling: "A chain that was off is oiled",
  oil_by: "Oil goes on",
  strip: "How far a drivetrain is taken apart",
  parts_washer: "Cassettes go through a parts washer",
  wheel_in: "No dummy hub: the wheel stays in for the clip-on cleaner",
  freehub_dry: "Freehub bodies stay dry",
  blower: "A blower dries chains",
  damp: "Humid or salty air here",
  tax_inside: "The prices hold the tax already",
} satisfies Partial<Record<keyof Work, string>>;

const plainWords: Record<string, string> = {
  ...Object.fromEntries(Object.entries(workQuestions).map(([name, words]) => [`work.${name}`, words])),
  wear_school: "When a chain is worn",
  wear_places: "Places read round a chain",
  length_unit: "Lengths",
  distance_unit: "Distances",
  temperature_unit: "Temperatures",
  volume_unit: "Volumes",
  mass_unit: "Weights",
  time_zone: "Time zone",
  locale: "Numbers, dates and money as in",
  currency: "Currency",
  length_method: "How long a chain is",
  sprocket_school: "Cassette, when the chain is at its limit",
  link_school: "A joining link that was opened",
  grease_school: "The grease of a new chain",
  session_idle_minutes: "Signed out after, min",
  "work.labour_hour": "An hour of work",
  "work.labour_step": "Work rounded up to, min",
  "work.fluids_by": "Fluid mark-up, times",
  "work.tax_pct": "Tax, %",
  "work.ask_over_pct": "Ask the customer beyond, %",
  "intervals.school": "How often a bike is cleaned",
  "intervals.look_ahead_days": "Done in the same visit when due within, days",
  "recalls.by_itself": "Send drafts without a person",
  "recalls.from": "Contact customers from",
  "recalls.until": "Contact customers until",
  "recalls.closed": "No message on",
  "recalls.closed_on": "No message on these days",
  "recalls.every_days": "A customer is contacted at most once in, days",
  "recalls.text": "What a message says",
  "person.name": "Name",
  "person.role": "Role",
  "person.state": "Status",
  "person.secret": "PIN or password",
  "device.name": "Name",
  "device.signed_in": "Signed in",
  "device.dropped": "Dropped unsent",
};

const classFields: Record<string, string> = {
  limit_pct: "replace at, %",
  together_pct: "cassette too past, %",
  limit_reason: "why its own wear limits",
  chain: "price of a chain",
  sprockets: "price of a cassette",
  rings: "price of chainrings",
  labour_chain: "work on a chain",
  labour_sprockets: "work on a cassette",
  labour_rings: "work on chainrings",
};

const personFields: Record<string, string> = { skills: "what they do", hours: "own hours", away: "away on" };

const ownTask: Record<string, string> = {
  title: "name",
  every_hard_km: "wear km",
  every_days: "days",
  weight: "weight",
  safety: "safety",
  kinds: "bikes",
};

const spaced = (code: string) => code.replaceAll(/[-_]/g, " ");
const route = (code: string) => (code in routeWords ? routeWords[code as keyof typeof routeWords].name : spaced(code));

/** What a setting is called, by its path; steps and tasks by the titles that `titles` gives their codes. */
export function settingName(path: string, of?: string, titles: Record<string, string> = {}): string | undefined {
  if (plainWords[path]) return plainWords[path];
  const [first = "", second = "", third = "", last = "", day = ""] = path.split(".");
  if (first === "permission")
    return second in permissionWords ? permissionWords[second as keyof typeof permissionWords][0] : undefined;
  if (first === "factors") return `A kilometre counts for, ${spaced(second)}`;
  if (first === "chains_per_set") return `Chains that a cassette lasts, ${spaced(second)}`;
  if (first === "classes" && second in classWords && classFields[third])
    return `${classWords[second as keyof typeof classWords].name}: ${classFields[third]}`;
  if (path.startsWith("work.minutes.")) return `Minutes: ${titles[third] ?? spaced(third)}`;
  if (path.startsWith("work.fixed_route.")) return `Fixed price: ${route(third)}`;
  if (path.startsWith("work.waste_route.")) return `Share of the waste: ${route(third)}`;
  if (path.startsWith("intervals.changed."))
    return `${titles[third] ?? spaced(third)}: ${ownTask[last] ?? spaced(last)}`;
  if (path.startsWith("intervals.own.")) return `Own task ${spaced(third)}: ${ownTask[last] ?? spaced(last)}`;
  if (path.startsWith("floor.places.")) return `How many: ${spaced(third)}`;
  if (path.startsWith("floor.hours.")) return `Open on ${third}s`;
  if (path.startsWith("floor.people.") && personFields[last])
    return `${of ?? "Somebody"}: ${personFields[last]}${day ? ` on ${day}s` : ""}`;
  return undefined;
}

const moneyAt = /^(work\.(labour_hour|fixed_route\.|waste_route\.)|classes\.[^.]+\.(chain|sprockets|rings|labour_))/;

/** What a setting is set to, in words. */
export function settingValue(path: string, text: string, currency: string): string {
  if (text === "") return path === "person.secret" ? "" : "not set";
  if (text === "true") return "yes";
  if (text === "false") return "no";
  if (moneyAt.test(path)) return `${typedMoney(Number(text), currency)} ${currency}`;
  if (path === "wear_school" && text in schoolWords) return schoolWords[text as School].name;
  if (path === "person.role" && text in roleWords) return roleWords[text as Role];
  if (path === "person.state" && text in stateWords) return stateWords[text as StaffState];
  return /^[a-z]+(-[a-z]+)+$/.test(text) ? spaced(text) : text;
}
