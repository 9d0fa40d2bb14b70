import { expect, it } from "vitest";
import { rules } from "../screens/rules/rules-kit";
import { permissionWords } from "./people";
import { settingName, settingValue } from "./settings";

/** The paths of all settings, as a change of them names them. */
function pathsOf(v: unknown, at: string[] = []): string[] {
  if (Array.isArray(v)) {
    const named = v.filter((x) => typeof x === "object" && x !== null && ("class" in x || "code" in x));
    return named.length > 0 ? named.flatMap((x) => pathsOf(x, [...at, x.class ?? x.code])) : [at.join(".")];
  }
  if (typeof v === "object" && v !== null)
    return Object.entries(v).flatMap(([k, x]) => (k === "class" || k === "code" ? [] : pathsOf(x, [...at, k])));
  return [at.join(".")];
}

it("names every setting, permission and what of a person is changed", () => {
  const paths = [
    ...pathsOf({
      ...rules,
      intervals: { ...rules.intervals, own: [{ code: "sealant", title: "Sealant", weight: 1 }] },
    }),
    ...Object.keys(permissionWords).map((p) => `permission.${p}`),
    ...[
      "person.name",
      "person.role",
      "person.state",
      "person.secret",
      "device.name",
      "device.signed_in",
      "device.dropped",
    ],
  ];
  expect(paths.length).toBeGreaterThan(90);
  expect(paths.filter((p) => !settingName(p.replace(".people.p1.", ".people.*."), "Posy Peake"))).toEqual([]);
});

it("says what a setting is set to", () => {
  expect(settingValue("work.labour_hour", "4800", "EUR")).toBe("48.00 EUR");
  expect(settingValue("work.first", "frame-first", "EUR")).toBe("frame first");
  expect(settingValue("wear_school", "three-quarter", "EUR")).toBe("Three-quarter");
  expect(settingValue("work.damp", "true", "EUR")).toBe("yes");
  expect(settingValue("recalls.closed", "", "EUR")).toBe("not set");
  expect(settingValue("recalls.text", "Hello {owner}: {why}.", "EUR")).toBe("Hello {owner}: {why}.");
});
