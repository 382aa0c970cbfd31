import { describe, expect, it } from "vitest";
import { around, backOf, forthOf, frameOf, inverse, product, ratioAt } from "./frame";
import { scaleAt, toPicture, toScreen } from "./viewport";

/** A picture turned clockwise by 30 degrees about (100, 80), seen half as large, and tilted a little. */
const [c, s] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)];
const TURN = [c, s, 100, -s, c, 80, 0.0004, 0.0002, 1];
const FRAME = frameOf({ key: "k", width: 300, height: 200, matrix: [...product(TURN, [2, 0, -30, 0, 2, -10, 0, 0, 1])] });

describe("a frame", () => {
  it("maps both ways", () => {
    const [x, y] = backOf(FRAME, 70, 40);
    const [u, v] = forthOf(FRAME, x, y);
    expect(u).toBeCloseTo(70, 9);
    expect(v).toBeCloseTo(40, 9);
    product(FRAME.back, inverse(FRAME.back)).forEach((value, n) => expect(value / 1).toBeCloseTo(n % 4 ? 0 : 1, 9));
  });

  it("is the original without a key", () => {
    const plain = frameOf({ key: "", width: 10, height: 10, matrix: [1, 0, 0, 0, 1, 0, 0, 0, 1] });
    expect(backOf(plain, 3, 4)).toEqual([3, 4]);
    expect(forthOf(undefined, 3, 4)).toEqual([3, 4]);
  });

  it("carries the pointer to the original and back to where it points", () => {
    const view = { scale: 1.7, x: -12, y: 9, frame: FRAME };
    const at = toPicture(view, 210, 133);
    const [px, py] = toScreen(view, ...at);
    expect(px).toBeCloseTo(210, 8);
    expect(py).toBeCloseTo(133, 8);
    const [ex, ey] = toScreen(view, at[0] + 1, at[1]);
    expect(scaleAt(view, ...at)).toBeCloseTo(Math.hypot(ex - px, ey - py), 0);
    expect(ratioAt(FRAME, ...at)).toBeCloseTo(1.7 / scaleAt(view, ...at), 9);
  });

  it("has a rectangle of the original within the one around it", () => {
    const [x0, y0, x1, y1] = around(FRAME, [90, 70, 130, 100]);
    for (const p of [[90, 70], [110, 85], [130, 100], [130, 70]] as [number, number][]) {
      const [x, y] = forthOf(FRAME, ...p);
      expect(x).toBeGreaterThanOrEqual(x0 - 1e-9);
      expect(x).toBeLessThanOrEqual(x1 + 1e-9);
      expect(y).toBeGreaterThanOrEqual(y0 - 1e-9);
      expect(y).toBeLessThanOrEqual(y1 + 1e-9);
    }
  });
});
