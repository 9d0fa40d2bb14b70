import { useMay } from "../../ui/frame";
import { PlaceHead } from "../../ui/PlaceHead";

/** Over the places where the shop says how it works; who may see to people and devices finds them here. */
export function RulesHead() {
  const staff = useMay("listStaff");
  const places: [string, string][] = [
    ["/settings", "Shop rules"],
    ["/settings/tools", "Measuring tools"],
    ["/settings/tables", "Import and export"],
    ...(staff
      ? ([
          ["/settings/people", "People"],
          ["/settings/devices", "Devices"],
        ] as [string, string][])
      : []),
    ["/settings/permissions", "Who may do what"],
  ];
  return <PlaceHead label="Settings" places={places} />;
}
