import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { Refused, serve, show } from "../../test-kit";
import { Rides } from "./Rides";

it("reads many ride files in turn, keeps the good ones and names what is wrong in the others", async () => {
  const asked = serve({
    "POST /bikes/B-0001-A/rides": ({ body }) => {
      if (body === "large") return new Refused(413, "too-large", "This file is too large.");
      return body === "good"
        ? {
            name: "monday.gpx",
            kept: [{ started_at: "2026-05-01T08:30:00Z", km: 18.84, jumps: 1, rain_mm: 6.2 }],
            repeated: [{ started_at: "2026-04-30T08:30:00Z", km: 7 }],
            wrong: [],
          }
        : { name: "odd.csv", kept: [], repeated: [], wrong: [{ line: 3, message: "distance_km is no distance" }] };
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
  expect(asked).toHaveLength(3);
});
