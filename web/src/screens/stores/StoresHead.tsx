import { PlaceHead } from "../../ui/PlaceHead";

const places: [string, string][] = [
  ["/stores", "Shelf"],
  ["/stores/fluids", "Fluids"],
  ["/stores/baths", "Baths"],
  ["/stores/waste", "Waste"],
];

/** Over the places of the stores. */
export function StoresHead() {
  return <PlaceHead label="Stores" places={places} />;
}
