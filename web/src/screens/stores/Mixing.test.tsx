import { fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, it } from "vitest";
import type { MixQuestion } from "../../api/client";
import { layers } from "../../draw/vessel";
import { Refused, serve, show } from "../../test-kit";
import { Mixing } from "./Mixing";

beforeEach(() => localStorage.clear());

const type = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });

it("asks only once everything is a number, and says what cannot be reached at its field", async () => {
  const asked = serve({
    "POST /calc/mix": ({ body }) => {
      const q = body as MixQuestion;
      if (q.mode === "ratio") return { product_ml: 333.34, water_ml: 166.66, strength_pct: 66.67 };
      if (q.want_ml === 500) return { product_ml: 140, water_ml: 60, strength_pct: 40 };
      return new Refused(422, "invalid-input", "no", {
        fields: [{ path: "want_strength_pct", code: "cannot-reach", message: "take some out first" }],
      });
    },
  });
  const page = show(<Mixing />);
  const answer = await screen.findByTestId("mix");
  expect(answer.textContent).toBe("100200300400500Water first167 mLThen product333 mLStrength then66.7 %");

  fireEvent.click(screen.getByRole("button", { name: "Topping up" }));
  expect(screen.queryByTestId("mix")).toBeNull();
  type("You have", "300");
  type("Its strength", "a fifth");
  type("You want", "500");
  type("Strength wanted", "40");
  expect(screen.getByText("“a fifth” is not a number.")).toBeTruthy();
  expect(asked).toHaveLength(1);
  type("Its strength", "20");
  await waitFor(() =>
    expect(screen.getByTestId("mix").textContent).toContain("There already300 mLAdd water60 mLAdd product140 mL"),
  );
  expect(screen.getByRole("img", { name: "A vessel with 300 mL there, 60 mL water, 140 mL product" })).toBeTruthy();

  type("You want", "400");
  expect(await screen.findByText("Take some out first")).toBeTruthy();
  expect(screen.getByLabelText("Strength wanted").getAttribute("aria-invalid")).toBe("true");
  expect(screen.queryByTestId("mix")).toBeNull();
  page.unmount();
  show(<Mixing />);
  expect(screen.getByLabelText("You want")).toHaveProperty("value", "400"); // a reload loses nothing
});

it("draws layers to scale under marks that a person can read", () => {
  const { parts, marks } = layers({ there: 300, water: 100, product: 100 }, 500, 100);
  expect(parts.map((p) => p.what)).toEqual(["there", "water", "product"]);
  for (const p of parts) expect(p.h).toBeCloseTo(p.ml * 0.188, 6);
  expect(parts[2]?.y).toBeCloseTo(6, 6);
  expect(marks.map((m) => m.ml)).toEqual([100, 200, 300, 400, 500]);
  expect(layers({ there: 0, water: 0, product: 7 }, 7, 100).marks.map((m) => m.ml)).toEqual([2, 4, 6]);
});
