import type { Station, WaitCode } from "../api/client";

// What is waited for, in words.

const whats: Record<WaitCode, string> = {
  "jar-soak": "jar soak",
  "solvent-soak": "solvent soak",
  "tub-soak": "tub soak",
  "degreaser-on": "degreaser on",
  "cleaner-on": "cleaner on",
  drip: "dripping",
  airing: "airing",
  tank: "ultrasonic",
  "acid-soak": "citric bath",
  neutralise: "neutralising",
  dry: "drying",
  "bare-steel": "bare: lubricate",
  "wax-melt": "wax melting",
  "wax-hold": "wax hold",
  "wax-skin": "wax skin forming",
  "wax-hang": "wax hanging",
  "oil-bath": "hot lubricant bath",
  "soak-in": "oil soaking in",
  "wax-dry": "first coat drying",
  "wax-set": "wax setting",
};

/** What is waited for; a timer of the shop's own says it itself. */
export const waitWords = (what: string) => (what in whats ? whats[what as WaitCode] : what);

const stations: Record<Station, string> = {
  stand: "stand",
  tub: "tub",
  tank: "tank",
  pot: "pot",
  rack: "rack",
  "parts-washer": "parts washer",
  "oil-bath": "lubricant bath",
};

export const stationWords = (place: string | undefined) =>
  place === undefined ? "" : place in stations ? stations[place as Station] : place;

/** What happens when it runs too long. */
export function tooLate(what: string): string {
  switch (what) {
    case "cleaner-on":
      return "cleaner that dries on marks paint";
    case "bare-steel":
    case "dry":
      return "bare steel flash-rusts: displacing spray or a film of oil, then clean again lightly; only warm air where wax goes on";
    case "acid-soak":
      return "acid embrittles hardened steel: take it out";
    case "wax-hold":
      return "take it out: nobody leaves a hot pot";
  }
  return "take it out";
}
