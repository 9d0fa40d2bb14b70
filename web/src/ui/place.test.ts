import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, it } from "vitest";

const root = join(import.meta.dirname, "..");

/** Where the device itself is meant: its own clock, as what it keeps is dated by it, where a new shop may be, and the formatters that are given zone and locale. */
const device =
  /^outbox\/|^ui\/(Away|shop|format|days|when|numbers|money|undo|moments|Slips|Waits)\.tsx?$|^api\/queries\.ts$|^screens\/signin\/|WhereRules|^screens\/setup\/SetUp\.tsx$/;

it("asks nobody but the shop for the time of day, or for how numbers are written", () => {
  const found: string[] = [];
  for (const file of readdirSync(root, { recursive: true, encoding: "utf8" })) {
    if (!/\.tsx?$/.test(file) || /test|-kit|schema\.d/.test(file) || device.test(file.replaceAll("\\", "/"))) continue;
    const text = readFileSync(join(root, file), "utf8");
    const asks =
      /new Date\(\)|Date\.now\(\)|toLocale\w+\(|Intl\.\w+Format|\.get(Hours|Date|Day|Month|FullYear|Minutes)\(|type="(date|time|datetime-local)"/;
    for (const line of text.split("\n")) if (asks.test(line)) found.push(`${file}: ${line.trim()}`);
  }
  expect(found).toEqual([]);
});
