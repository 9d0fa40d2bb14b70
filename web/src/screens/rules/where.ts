import type { FirstShop } from "../../api/client";

/** Regions whose way of writing numbers, dates and amounts can be chosen; the program's words stay English. */
export const locales = (
  "en-GB en-IE en-US en-CA en-AU en-NZ en-ZA en-IN de-DE de-AT de-CH fr-FR fr-BE fr-CH nl-NL nl-BE it-IT es-ES pt-PT pt-BR " +
  "da-DK sv-SE nb-NO fi-FI pl-PL cs-CZ sl-SI hr-HR"
).split(" ");

const region = new Intl.DisplayNames(["en"], { type: "region" });

/** The region of a locale by its name, with the language where a region writes in more than one way. */
export function localeWords(locale: string): string {
  const { region: code = "", language } = new Intl.Locale(locale);
  const name = region.of(code) ?? locale;
  const twin = locales.some((l) => l !== locale && new Intl.Locale(l).region === code);
  return twin ? `${name} (${new Intl.DisplayNames(["en"], { type: "language" }).of(language)})` : name;
}

const currencies: Record<string, string> = {
  GB: "GBP",
  US: "USD",
  CA: "CAD",
  AU: "AUD",
  NZ: "NZD",
  ZA: "ZAR",
  IN: "INR",
  CH: "CHF",
  BR: "BRL",
  DK: "DKK",
  SE: "SEK",
  NO: "NOK",
  PL: "PLN",
  CZ: "CZK",
};

const regionOf = (locale: string) => new Intl.Locale(locale).region ?? "";

/** What people pay with in the region of a locale. */
export const currencyOf = (locale: string) => currencies[regionOf(locale)] ?? "EUR";

type Units = Pick<FirstShop, "length_unit" | "distance_unit" | "temperature_unit" | "volume_unit" | "mass_unit">;

/** The units of the region of a locale. */
export function unitsOf(locale: string): Units {
  const region = regionOf(locale);
  if (region === "US")
    return { length_unit: "in", distance_unit: "mi", temperature_unit: "f", volume_unit: "fl-oz", mass_unit: "oz" };
  return {
    length_unit: "mm",
    distance_unit: region === "GB" ? "mi" : "km",
    temperature_unit: "c",
    volume_unit: "ml",
    mass_unit: "g",
  };
}
