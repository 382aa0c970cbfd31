import { describe, expect, it } from "vitest";
import { covers, sameGrid, type Frame } from "./Frames";
import type { Grid } from "./viewport";

const GRID: Grid = { x: 100, y: 40, scale: 0.5, width: 80, height: 60 };
const frame = (grid: Grid): Frame => ({ canvas: document.createElement("canvas"), grid });

describe("grids of pixels", () => {
  it("are the same but for the last digits of their numbers", () => {
    expect(sameGrid(GRID, { ...GRID, x: 100 + 1e-9, scale: 0.49999999999 })).toBe(true);
  });
  it("are others when anything is moved, scaled or cut", () => {
    for (const change of [{ x: 101 }, { y: 39.99 }, { scale: 0.51 }, { width: 79 }, { height: 61 }])
      expect(sameGrid(GRID, { ...GRID, ...change })).toBe(false);
  });
});

describe("a frame", () => {
  it("covers what lies within it at its own scale", () => {
    // The frame reaches from 100, 40 to 260, 160 of the original.
    expect(covers(frame(GRID), { ...GRID, x: 140, y: 60, width: 60, height: 50 })).toBe(true);
    expect(covers(frame(GRID), GRID)).toBe(true);
  });
  it("doesn't cover what sticks out, has another scale, or is there before it", () => {
    expect(covers(frame(GRID), { ...GRID, x: 98 })).toBe(false);
    expect(covers(frame(GRID), { ...GRID, width: 82 })).toBe(false);
    expect(covers(frame(GRID), { ...GRID, scale: 0.25, width: 10, height: 10 })).toBe(false);
    expect(covers(null, GRID)).toBe(false);
  });
});
