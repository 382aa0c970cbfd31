import { expect, test } from "vitest";
import { nearestStrand } from "./strands";

const STRANDS = [
  { id: "a", path: [[0, 0], [100, 0]] },
  { id: "b", path: [[50, 20], [50, 80], [90, 120]] },
  { id: "dab", path: [[200, 200]] },
];

test("a strand is meant anywhere along it, not only at its points", () => {
  expect(nearestStrand(STRANDS, [40, 3], 8)?.id).toBe("a");
  expect(nearestStrand(STRANDS, [70, 102], 8)?.id).toBe("b");
  expect(nearestStrand(STRANDS, [203, 198], 8)?.id).toBe("dab");
});

test("beyond its ends and away from all none is meant", () => {
  expect(nearestStrand(STRANDS, [120, 0], 8)).toBeNull();
  expect(nearestStrand(STRANDS, [20, 60], 8)).toBeNull();
});
