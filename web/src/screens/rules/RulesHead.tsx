import { PlaceHead } from "../../ui/PlaceHead";

const places: [string, string][] = [
  ["/rules", "House rules"],
  ["/rules/tools", "Measuring tools"],
  ["/rules/tables", "In and out"],
];

/** Over the places where the shop says how it works. */
export function RulesHead() {
  return <PlaceHead label="Rules" places={places} />;
}
