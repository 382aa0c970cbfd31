import { describe, expect, it } from "vitest";
import { kept, placeFor, type CurvePoint } from "./curves";

const POINTS: CurvePoint[] = [[0, 0], [0.4, 0.5], [1, 1]];

describe("points of a curve", () => {
  it("stay between their neighbours", () => {
    expect(kept(POINTS, 1, [2, -1])).toEqual([0.98, 0]);
    expect(kept(POINTS, 1, [-1, 2])).toEqual([0.02, 1]);
    expect(kept(POINTS, 0, [-0.5, 0.2])).toEqual([0, 0.2]);
    expect(kept(POINTS, 2, [1.5, 0.9])).toEqual([1, 0.9]);
  });

  it("are added where there is room", () => {
    expect(placeFor(POINTS, 0.2)).toBe(1);
    expect(placeFor(POINTS, 0.7)).toBe(2);
    expect(placeFor(POINTS, 0.41)).toBeNull();
  });
});
