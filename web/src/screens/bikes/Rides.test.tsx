import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { Refused, serve, show } from "../../test-kit";
import { Rides } from "./Rides";

it("reads many ride files in turn, keeps the good ones and names what is wrong in the others", async () => {
  const asked = serve({
    "GET /bikes/B-0001-A/ride-drafts": () => [],
    "POST /bikes/B-0001-A/rides": ({ body }) => {
      if (body === "large") return new Refused(413, "too-large", "This file is too large.");
      return body === "good"
        ? {
            name: "monday.gpx",
            kept: [{ started_at: "2026-05-01T08:30:00Z", km: 18.84, jumps: 1, rain_mm: 6.2 }],
            repeated: [{ started_at: "2026-04-30T08:30:00Z", km: 7 }],
            wrong: [],
            left: [],
            wrong_count: 0,
            questions: [],
          }
        : {
            name: "odd.csv",
            kept: [],
            repeated: [],
            left: [],
            wrong: [{ line: 3, message: "distance_km is no distance" }],
            wrong_count: 7,
            questions: [],
          };
    },
  });
  show(<Rides tag="B-0001-A" />);
  const files = ["good", "large", "odd"].map((what) => new File([JSON.stringify(what)], `${what}.gpx`));
  fireEvent.drop(screen.getByRole("region", { name: "Rides" }), { dataTransfer: { files } });
  await waitFor(() => expect(screen.getAllByTestId("ride-file")).toHaveLength(3));
  const [good, large, odd] = screen.getAllByTestId("ride-file").map((li) => li.textContent);
  expect(good).toContain("18.8 km, 6.2 mm of rain, 1 jump dropped");
  expect(good).toContain("There already");
  expect(large).toContain("This file is too large.");
  expect(odd).toContain("Line 3: distance_km is no distance");
  expect(odd).toContain("and 6 more");
  const posts = asked.filter((a) => a.method === "POST");
  expect(new Set(posts.map((a) => a.key)).size, "each file under a key of its own").toBe(3);
});

it("asks what a file leaves open, keeps nothing until all is answered, and goes on with files left open", async () => {
  const question = {
    id: "overlap 1",
    code: "overlap",
    choices: ["other", "this", "both"],
    this: { started_at: "2026-05-05T08:30:00Z", km: 40 },
    other: { started_at: "2026-05-05T08:00:00Z", km: 20 },
    kept: true,
  };
  const file = { name: "late.csv", kept: [], repeated: [], left: [], wrong: [], wrong_count: 0, questions: [question] };
  let drafts = [{ id: "d1", name: "late.csv", created_at: "2026-05-06T09:00:00Z" }];
  const asked = serve({
    "GET /bikes/B-0001-A/ride-drafts": () => drafts,
    "POST /ride-drafts/d1": ({ body }) => {
      const { answers } = body as { answers: Record<string, string> };
      if (Object.keys(answers).length === 0) return { ...file, draft: "d1" };
      drafts = [];
      return { ...file, questions: [], kept: [question.this] };
    },
  });
  show(<Rides tag="B-0001-A" />);
  fireEvent.click(await screen.findByRole("button", { name: "Continue" }));
  const asks = await screen.findByTestId("ride-question");
  expect(asks.textContent).toContain("on record");
  expect(screen.getByRole("button", { name: "1 to answer" }).hasAttribute("disabled")).toBe(true);
  fireEvent.click(screen.getByRole("button", { name: "Keep this one instead" }));
  fireEvent.click(screen.getByRole("button", { name: "Import rides" }));
  expect(await screen.findByText(/^Kept:/)).toBeTruthy();
  expect(asked.filter((a) => a.method === "POST").at(-1)?.body).toEqual({ answers: { "overlap 1": "this" } });
});
