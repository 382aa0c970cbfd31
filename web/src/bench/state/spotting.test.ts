import { expect, it } from "vitest";
import { atLeast, byChance } from "./spotting";

it("tells seeing from guessing by the binomial distribution", () => {
  // Eight tosses of a coin: 1, 8, 28, 56, 70 of 256 ways to have 8, 7, 6, 5, 4 heads.
  expect(atLeast(8, 8)).toBeCloseTo(1 / 256, 10);
  expect(atLeast(6, 8)).toBeCloseTo(37 / 256, 10);
  expect(atLeast(0, 8)).toBeCloseTo(1, 10);
  expect(byChance(7, 8)).toContain("can be seen");
  expect(byChance(6, 8)).toContain("14 times in a hundred");
  expect(byChance(4, 8)).toContain("guessing");
});
