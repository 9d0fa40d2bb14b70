import { PlaceHead } from "../../ui/PlaceHead";

const places: [string, string][] = [
  ["/due", "Due"],
  ["/due/messages", "Messages"],
  ["/due/gateway", "Gateway"],
];

/** Over what is due, what owners are told, and what the simulated gateway received. */
export function DueHead() {
  return <PlaceHead label="Due" places={places} />;
}
