// Numbers as they are read aloud at the bench. The server does not round; the page does, here.

/** Wear to a hundredth; halves of the house limits stay whole: 0.5, 0.75, 0.62. */
export const percent = (p: number) => signed(p.toFixed(2));

/** Millimetres to a tenth, or a hundredth where the reading has one. */
export function mm(v: number): string {
  const tenth = Math.abs(v * 10 - Math.round(v * 10)) < 1e-6;
  return signed(v.toFixed(tenth ? 1 : 2));
}

/** Millimetres to a thousandth: the play of one joint. */
export const fineMM = (v: number) => signed(v.toFixed(3));

/** "-0.00" is just zero, and a true minus sign is easier to see. */
const signed = (s: string) => (Number(s) === 0 ? s.replace("-", "") : s.replace("-", "−"));

const day = new Intl.DateTimeFormat("en-GB", { day: "2-digit", month: "short" });
const dayAndYear = new Intl.DateTimeFormat("en-GB", { day: "2-digit", month: "short", year: "numeric" });
const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });

/** 24 Nov; with the year when it is another one. */
export function shortDay(iso: string, now = new Date()): string {
  const d = new Date(iso);
  return d.getFullYear() === now.getFullYear() ? day.format(d) : dayAndYear.format(d);
}

export const dayAndTime = (iso: string) => `${dayAndYear.format(new Date(iso))}, ${clock.format(new Date(iso))}`;

/** "today", "yesterday", "12 days ago", then months. */
export function ago(iso: string, now = new Date()): string {
  const midnight = (d: Date) => new Date(d.getFullYear(), d.getMonth(), d.getDate()).getTime();
  const days = Math.round((midnight(now) - midnight(new Date(iso))) / 86_400_000);
  if (days <= 0) return "today";
  if (days === 1) return "yesterday";
  if (days < 60) return `${days} days ago`;
  return `${Math.round(days / 30.4)} months ago`;
}

/** Mira O.: how a person is called where there is little room. */
export function shortName(name: string): string {
  const [first = "", ...rest] = name.split(" ");
  const last = rest.at(-1);
  return last ? `${first} ${last.charAt(0)}.` : first;
}

/** A time as a field of date and time takes it, by the clock of this screen. */
export function typedTime(iso: string): string {
  const at = new Date(iso);
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}
