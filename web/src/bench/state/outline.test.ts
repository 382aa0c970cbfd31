import { describe, expect, it } from "vitest";
import { cornersOf, curveThrough, ellipseIn, isPlace, simplified, type Point } from "./outline";

const SQUARE: Point[] = [
  [0, 0],
  [10, 0],
  [10, 10],
  [0, 10],
];

describe("outlines", () => {
  it("a smooth curve passes through its nodes", () => {
    const curve = curveThrough(SQUARE);
    for (const [x, y] of SQUARE) expect(curve.some((p) => p[0] === x && p[1] === y)).toBe(true);
    // Between two nodes of a square it bulges outwards.
    expect(Math.min(...curve.map((p) => p[1]))).toBeLessThan(0);
  });

  it("an ellipse touches its box", () => {
    const points = ellipseIn([2, 4], [12, 8]);
    for (const [x, y] of points) expect(((x - 7) / 5) ** 2 + ((y - 6) / 2) ** 2).toBeCloseTo(1, 9);
  });

  it("a straight freehand line is its two ends, and a corner stays", () => {
    const line: Point[] = Array.from({ length: 20 }, (_, i) => [i, 0.01 * (i % 2)]);
    expect(simplified(line, 0.1)).toEqual([line[0], line[19]]);
    const corner: Point[] = [...line, ...Array.from({ length: 20 }, (_, i): Point => [19, i + 1])];
    expect(simplified(corner, 0.1)).toHaveLength(3);
  });

  it("what encloses nothing is no place", () => {
    expect(isPlace([])).toBe(false);
    expect(isPlace([[0, 0], [5, 5]])).toBe(false);
    expect(isPlace([[0, 0], [5, 0], [9, 0]])).toBe(false);
    expect(isPlace(cornersOf("polygon", SQUARE))).toBe(true);
    expect(cornersOf("ellipse", [[1, 1]])).toEqual([]);
  });
});
