import { describe, expect, it } from "vitest";
import { tileAfter } from "./tileKeys";

// Eight tiles, three in a row, two in the last.
const TOPS = [10, 10, 10, 220, 220, 220, 430, 430];
const to = (key: string, from: number) => tileAfter(key, from, TOPS);

describe("keys on the wall", () => {
  it("go on along the row and to the next one", () => {
    expect([0, 1, 2, 6].map((n) => to("ArrowRight", n))).toEqual([1, 2, 3, 7]);
    expect([7, 3, 1].map((n) => to("ArrowLeft", n))).toEqual([6, 2, 0]);
  });

  it("go down and up by a row, to the last tile where there is none below", () => {
    expect([0, 1, 2, 3, 4].map((n) => to("ArrowDown", n))).toEqual([3, 4, 5, 6, 7]);
    expect(to("ArrowDown", 5)).toBe(7);
    expect([3, 5, 7].map((n) => to("ArrowUp", n))).toEqual([0, 2, 4]);
  });

  it("stay at the ends", () => {
    expect([to("ArrowLeft", 0), to("ArrowUp", 1), to("ArrowRight", 7), to("ArrowDown", 6), to("ArrowDown", 7)]).toEqual([null, null, null, null, null]);
    expect(tileAfter("ArrowDown", 0, [10])).toBeNull();
  });

  it("lead to the first and the last, and leave other keys alone", () => {
    expect([to("Home", 4), to("End", 4)]).toEqual([0, 7]);
    expect([to("Home", 0), to("End", 7), to("Enter", 3), to("a", 3)]).toEqual([null, null, null, null]);
  });
});
