import type { JobPlan } from "../../api/client";

// What a customer reads of a job, here by itself: their page fetches no more of the shop's than it needs.

/** What was done, in a customer's words, by the codes of the steps that were done. */
export function doneOf(steps: readonly string[]): string[] {
  const done = (code: string) => steps.includes(code);
  const said: string[] = [];
  if (done("cleaner-on")) said.push("Washed by hand from the top down and dried.");
  else if (done("frame-wipe")) said.push("Frame wiped down.");
  if (done("jar-refresh")) said.push("Chain taken off, soaked and shaken until no more dirt came out of it.");
  else if (done("bare-look")) said.push("Chain stripped to bare metal.");
  else if (done("bath-soap")) said.push("Chain cleaned in a bath on the bike until a white rag stayed clean.");
  else if (done("chain-brush-off")) said.push("Chain brushed and wiped with degreaser.");
  else if (done("chain-wipe")) said.push("Chain wiped.");
  if (done("acid-bath")) said.push("Rust taken off the chain and neutralised.");
  if (done("crank-off"))
    said.push("Crank, chainrings, cassette and derailleur taken off, cleaned, checked and put back.");
  else if (done("sprockets-brush")) said.push("Cassette, jockey wheels and chainrings scraped and brushed.");
  if (done("new-chain")) said.push("New chain fitted.");
  if (done("oil-wipe")) said.push("Every roller oiled, the outside wiped dry.");
  if (done("drip-two")) said.push("Two coats of drip wax.");
  if (done("wax-break")) said.push("Chain waxed in the pot; it is a little stiff for the first ride or two.");
  if (done("index")) said.push("Gears indexed.");
  if (done("brakes-test")) said.push("Both brakes tested.");
  if (done("motor-on")) said.push("Motor tried after its contacts were dry.");
  return said;
}

/** What to do after each ride, by what is on the chain. */
export function aftercare(next: JobPlan["lubricant_next"]): string[] {
  const rain =
    next === "oil"
      ? "After rain: dry the chain, displace the water, oil it again."
      : "After rain: dry the chain the same day; wax protects little against rust.";
  return [
    "Wipe the chain after each ride.",
    rain,
    "Store it dry. A little lubricant often beats much.",
    "No kitchen cleaner, and no general-purpose spray as chain lubricant.",
    "Come back when it squeaks, feels gritty, blackens a finger or skips.",
  ];
}
