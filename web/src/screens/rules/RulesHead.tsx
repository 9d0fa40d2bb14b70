import { PlaceHead } from "../../ui/PlaceHead";

const places: [string, string][] = [
  ["/settings", "Shop rules"],
  ["/settings/tools", "Measuring tools"],
  ["/settings/tables", "In and out"],
];

/** Over the places where the shop says how it works. */
export function RulesHead() {
  return <PlaceHead label="Settings" places={places} />;
}
