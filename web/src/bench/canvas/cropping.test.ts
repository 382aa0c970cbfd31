import { describe, expect, it } from "vitest";
import { inPicture, offLevel, ofRatio, resized, settingsOf, shifted, within, type Box } from "./cropping";

const PICTURE = { width: 400, height: 300 };
/** The plane of a picture that isn't turned: its middle is the origin. */
const PLAIN = [1, 0, 200, 0, 1, 150, 0, 0, 1];
const [c, s] = [Math.cos(0.2), Math.sin(0.2)];
const TURNED = [c, s, 200, -s, c, 150, 0, 0, 1];
const BOX: Box = [-100, -50, 100, 50];

describe("a dragged frame", () => {
  it("moves the sides that are held and no others", () => {
    expect(resized(BOX, [1, 1], 20, -10, 0)).toEqual([-100, -50, 120, 40]);
    expect(resized(BOX, [-1, 0], 20, 99, 0)).toEqual([-80, -50, 100, 50]);
  });

  it("keeps its ratio and the corner that isn't held", () => {
    const [x0, y0, x1, y1] = resized(BOX, [-1, -1], -40, 0, 2);
    expect((x1 - x0) / (y1 - y0)).toBeCloseTo(2, 9);
    expect([x1, y1]).toEqual([100, 50]);
    const side = resized(BOX, [0, 1], 0, 30, 2);
    expect((side[0] + side[2]) / 2).toBe(0);
    expect((side[2] - side[0]) / (side[3] - side[1])).toBeCloseTo(2, 9);
  });

  it("never shrinks to nothing", () => {
    const [x0, , x1] = resized(BOX, [1, 0], -900, 0, 0);
    expect(x1 - x0).toBe(16);
  });

  it("goes as far as the picture and no farther", () => {
    expect(within(BOX, [-100, -50, 400, 50], PLAIN, PICTURE)[2]).toBeCloseTo(200, 1);
    const turned = within(BOX, [-300, -200, 300, 200], TURNED, PICTURE);
    expect(inPicture(turned, TURNED, PICTURE)).toBe(true);
    expect(turned[0]).toBeLessThan(-100);
  });

  it("slides along the picture's edge", () => {
    const [x0, y0] = shifted(BOX, 500, 30, PLAIN, PICTURE, false);
    expect(x0).toBeCloseTo(0, 1);
    expect(y0).toBeCloseTo(-20, 1);
    expect(shifted(BOX, 500, 30, PLAIN, PICTURE, true)).toEqual([400, -20, 600, 80]);
  });

  it("takes a ratio around its middle", () => {
    const [x0, y0, x1, y1] = ofRatio(BOX, 0.8, PLAIN, PICTURE, false);
    expect((x1 - x0) / (y1 - y0)).toBeCloseTo(0.8, 9);
    expect(x0 + x1).toBeCloseTo(0, 9);
    expect(y0 + y1).toBeCloseTo(0, 9);
  });

  it("is told by its middle in the original", () => {
    expect(settingsOf([0, 0, 100, 60], PLAIN, PICTURE)).toEqual({
      centre_x_px: 250,
      centre_y_px: 180,
      width_px: 100,
      height_px: 60,
    });
  });
});

describe("a line that is to be level or upright", () => {
  it("is off by its angle to the nearest of both", () => {
    expect(offLevel(100, 10)).toBeCloseTo(5.71, 2);
    expect(offLevel(-100, -10)).toBeCloseTo(5.71, 2);
    expect(offLevel(-10, 100)).toBeCloseTo(5.71, 2);
    expect(offLevel(10, -100)).toBeCloseTo(5.71, 2);
    expect(offLevel(0, 50)).toBeCloseTo(0, 9);
  });
});
