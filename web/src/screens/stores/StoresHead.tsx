import { PlaceHead } from "../../ui/PlaceHead";

const places: [string, string][] = [
  ["/stock", "Shelf"],
  ["/stock/fluids", "Fluids"],
  ["/stock/baths", "Baths"],
  ["/stock/waste", "Waste"],
];

/** Over the places of the stores. */
export function StoresHead() {
  return <PlaceHead label="Stock" places={places} />;
}
