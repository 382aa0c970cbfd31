import { describe, expect, it } from "vitest";
import type { Face } from "./faces";
import { GONE, whose } from "./whose";

const face = (number: number, x: number, size: number): Face =>
  ({ number, anchor: [x + size / 2, 100], box: [x, 100 - size / 2, size, size] }) as unknown as Face;

describe("whose something is", () => {
  const faces = [face(0, 0, 100), face(1, 300, 100), face(2, 320, 40)];

  it("is everyone's where nobody is named", () => {
    expect(whose(null, faces)).toBe(-1);
    expect(whose(undefined, faces)).toBe(-1);
  });

  it("is that of the face that holds the place, the nearest for its size", () => {
    expect(whose([40, 90], faces)).toBe(0);
    expect(whose([310, 60], faces)).toBe(1);
    expect(whose([340, 100], faces)).toBe(2);
    expect(whose([352, 100], faces)).toBe(1);
  });

  it("is nobody's where no face is found any more", () => {
    expect(whose([900, 100], faces)).toBe(GONE);
    expect(whose(1, faces)).toBe(1);
    expect(whose(3, faces)).toBe(GONE);
  });
});
