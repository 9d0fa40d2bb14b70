import { expect, it } from "vitest";
import { minorUnits, money, roughMoney, typedMoney } from "./money";

it("reads and writes amounts of any currency to the digits that it has", () => {
  expect([minorUnits("12.5", "EUR"), minorUnits("12,50", "EUR"), minorUnits("0", "EUR")]).toEqual([1250, 1250, 0]);
  expect([minorUnits("1500", "JPY"), minorUnits("1500.5", "JPY")]).toEqual([1500, undefined]);
  expect([
    minorUnits("12.505", "EUR"),
    minorUnits("-3", "EUR"),
    minorUnits("dear", "EUR"),
    minorUnits("", "EUR"),
  ]).toEqual([undefined, undefined, undefined, undefined]);
  expect([typedMoney(1250, "EUR"), typedMoney(1500, "JPY"), typedMoney(1250, "eu")]).toEqual([
    "12.50",
    "1500",
    "12.50",
  ]);
  expect([money(1250, "EUR"), money(1250, "eu")]).toEqual(["€12.50", "12.50 eu"]);
});

it("tells what was reckoned no finer than it is known", () => {
  expect([roughMoney(5259.3, "EUR"), roughMoney(740.4, "EUR"), roughMoney(740.4, "EUR", 5259.3)]).toEqual([
    "€53",
    "€7.40",
    "€7",
  ]);
});
