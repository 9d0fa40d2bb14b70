import { PlaceHead } from "../../ui/PlaceHead";

const places: [string, string][] = [
  ["/settings", "Shop rules"],
  ["/settings/tools", "Measuring tools"],
  ["/settings/tables", "Import and export"],
];

/** Over the places where the shop says how it works. */
export function RulesHead() {
  return <PlaceHead label="Settings" places={places} />;
}
