import type { Permission, Person, StaffState } from "../api/client";

// What people are here, and what they may.

export const roleWords: Record<Person["role"], string> = {
  owner: "owner",
  mechanic: "mechanic",
  counter: "counter",
  apprentice: "apprentice",
};

export const stateWords: Record<StaffState, string> = {
  here: "works here",
  locked: "locked out",
  left: "left",
};

/** What each row of the table lets somebody do. */
export const permissionWords: Record<Permission, [name: string, what: string]> = {
  look: ["See everything", "Bikes, jobs, the day, due lists, stock"],
  own: ["Their own", "Their PIN, how they work at the stand"],
  record: ["Work at the stand", "Readings, steps, parts, faults, baths and waste"],
  note: ["Notes and photos", "And odometer readings, rides"],
  "book-in": ["Book in", "A bike comes in, and is planned as recommended"],
  book: ["Promises, customers, bikes", "Add and change them; who is away; work kept for somebody"],
  void: ["Void an entry", "Their own; a mechanic an apprentice's too, an apprentice on the same day only"],
  "hand-back": ["Hand back", "An apprentice with a mechanic's signature"],
  overrule: ["Another way than recommended", "When a job is planned"],
  count: ["Stock counts", "Add and count what is on the shelf; the shop's owner sets prices"],
  tools: ["Tools and minutes", "Measuring tools, materials, how long steps take"],
  tell: ["Messages", "To customers, and what they report"],
  links: ["Secret links", "Give and withdraw them"],
  "customer-data": ["A customer's data", "All that is held on one customer; imports"],
  passports: ["Bike passports", "In and out"],
  export: ["Export and erase", "Whole tables; erasing a customer"],
  settings: ["Settings and prices", "Schools, hours, places, reminders, currency, time zone"],
  people: ["People", "Who works here, devices, this table"],
  release: ["Leaves with a fault", "The customer was told and it leaves unridden"],
  countersign: ["Second signature", "For what an apprentice did"],
};
