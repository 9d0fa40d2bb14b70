import { afterEach, expect, it } from "vitest";
import { percent } from "./format";
import { readNumber } from "./numbers";
import { settle, type Ways } from "./shop";
import { amount, held, inShopUnits, type Kind, typed, understood } from "./units";

afterEach(() => settle({}));

const metric: Partial<Ways> = { locale: "de-DE" };
const imperial: Partial<Ways> = {
  locale: "en-US",
  length: "in",
  distance: "mi",
  temperature: "f",
  volume: "fl-oz",
  mass: "oz",
};
const kinds: Kind[] = ["length", "distance", "temperature", "volume", "mass"];

/** The same values on every run: nothing here is left to chance. */
function* values(): Generator<number> {
  for (const v of [0, 0.1, 1, 9.9, 12.7, 25.4, 93, 95, 430, 431.8, 999.5, 5980, 12345.6]) yield v;
  let x = 7;
  for (let i = 0; i < 400; i++) {
    x = (x * 48271) % 2147483647;
    yield Math.round((x / 2147483647) * 20000) / 10;
  }
}

it("keeps what is shown, when it is typed back, to the last digit", () => {
  for (const shop of [metric, imperial])
    for (const kind of kinds)
      for (const v of values()) {
        settle(shop);
        expect(typed(kind, held(kind, v), v), `${kind} ${v}`).toBe(v);
      }
});

it("stores the same, whichever unit a shop has and whichever is typed", () => {
  const spellings: Record<Kind, [string, string][]> = {
    length: [
      ["17 in", "431.8 mm"],
      ['16 15/16"', "430.2125mm"],
      ["1/2 in", "12.7 mm"],
      ["16-15/16 inches", "430.2125 mm"],
    ],
    distance: [
      ["1000 mi", "1609.344 km"],
      ["3715 miles", "5978.71296 km"],
    ],
    temperature: [
      ["203 °F", "95 °C"],
      ["-4 f", "-20 c"],
    ],
    volume: [["16 fl oz", "473.176473 mL"]],
    mass: [["16 oz", "453.59237 g"]],
  };
  for (const [kind, list] of Object.entries(spellings) as [Kind, [string, string][]][])
    for (const [own, si] of list) {
      settle({ ...imperial });
      const there = [typed(kind, own), typed(kind, si)];
      settle({ ...metric, locale: "en-GB" });
      expect([...there, typed(kind, own), typed(kind, si)], own).toEqual(Array(4).fill(there[0]));
      expect(there[0]).toBeDefined();
    }
});

it("reads numbers by the shop's signs, and doubts what could be two", () => {
  settle({ locale: "de-DE" });
  expect(["1.234", "1.234,5", "12,5", "12.5", "1 234", "5,980"].map(readNumber)).toEqual([
    1234, 1234.5, 12.5, 12.5, 1234, 5.98,
  ]);
  settle({ locale: "en-US" });
  expect(["1,234", "1,234.5", "12.5", "12,5", "x", "1,23,4", ""].map(readNumber)).toEqual([
    1234,
    1234.5,
    12.5,
    12.5,
    undefined,
    undefined,
    undefined,
  ]);
  settle({ locale: "fr-FR" });
  expect(["1 234", "1,234", "1.234"].map(readNumber)).toEqual([1234, 1.234, undefined]);
});

it("writes figures and the catalogue's texts as the shop does", () => {
  settle(imperial);
  expect([amount("length", 431.8), amount("length", 430), amount("length", 430.2), amount("temperature", 95)]).toEqual([
    "17 in",
    "16.93 in",
    "16 15/16 in",
    "203 °F",
  ]);
  expect(inShopUnits("8 to 12 mm up and down; 95 °C, never above 110 °C. 50 g to a litre.")).toBe(
    "0.31 to 0.47 in up and down; 203 °F, never above 230 °F. 50 g to a litre.",
  );
  expect(inShopUnits("Hex 4, 5 or hex 4, 5 mm: 5 mm apart")).toBe("Hex 4, 5 or hex 4, 5 mm: 0.2 in apart");
  expect(understood("length", "430 mm")).toBe("= 16.93 in");
  settle({ locale: "de-DE" });
  expect([percent(0.5), amount("length", 12.7), inShopUnits("worn 2.5 mm at 95 °C")]).toEqual([
    "0,50",
    "12,7 mm",
    "worn 2,5 mm at 95 °C",
  ]);
  expect(understood("length", "17 in")).toBe("= 431,8 mm");
  expect(understood("length", "430")).toBeUndefined();
});
