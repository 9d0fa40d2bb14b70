import { QueryClient } from "@tanstack/react-query";
import { expect, it } from "vitest";
import type { Change } from "./client";
import { refresh } from "./live";

/** Which of these a change makes stale. */
function stale(change: Change, keys: unknown[][]): unknown[][] {
  const client = new QueryClient();
  for (const key of keys) client.setQueryData(key, "kept");
  refresh(client, change);
  return keys.filter((key) => client.getQueryState(key)?.isInvalidated);
}

const keys = [
  ["bike", "B-0001-A"],
  ["bike", "B-0001-A", "track"],
  ["bike", "B-0002-B"],
  ["bikes", { q: "" }],
  ["customers"],
  ["bench", { tag: "B-0001-A" }],
  ["instruments"],
  ["stock", { retired: false }],
  ["rules"],
  ["session"],
  ["due", { state: "due" }],
  ["messages"],
];

it("asks again for what a change touches, and for nothing else", () => {
  const names = (change: Change) => stale(change, keys).map((k) => k.join(" "));
  expect(stale({ topic: "bike", tag: "B-0001-A" }, keys)).toEqual([
    keys[0],
    keys[1],
    keys[3],
    keys[4],
    keys[5],
    keys[7],
    keys[10],
    keys[11], // drafts follow what is due
  ]);
  expect(stale({ topic: "message", tag: "B-0001-A" }, keys)).toEqual([keys[10], keys[11]]);
  expect(names({ topic: "instruments" })).toEqual(["bench [object Object]", "instruments"]);
  expect(stale({ topic: "stock" }, keys)).toEqual([keys[0], keys[1], keys[2], keys[7]]);
  expect(stale({ topic: "rules" }, keys)).toEqual(keys); // they reach into every verdict, and into the session's shop
  expect(stale({ topic: "everything" }, keys)).toEqual(keys.filter((k) => k[0] !== "bench"));
});

it("tells the day, the strip and the stores of what a job does", () => {
  const shop = [
    ["jobs"],
    ["jobs", "j1"],
    ["waits"],
    ["baths"],
    ["materials"],
    ["waste"],
    ["bike", "B-0001-A"],
    ["rules"],
  ];
  expect(stale({ topic: "job", tag: "B-0001-A" }, shop)).toEqual(
    shop.filter((k) => !["waste", "rules"].includes(k[0] ?? "")),
  );
  expect(stale({ topic: "job" }, shop)).toEqual(shop.filter((k) => !["waste", "rules", "bike"].includes(k[0] ?? "")));
  expect(stale({ topic: "stores" }, shop)).toEqual([["jobs"], ["jobs", "j1"], ["baths"], ["materials"], ["waste"]]);
});
