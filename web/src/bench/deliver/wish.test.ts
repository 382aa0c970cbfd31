import { describe, expect, it } from "vitest";
import { detailOf, perInch, sent, sizeOf, usual, wishOf, wrongSize } from "./wish";

describe("a wish", () => {
  it("asks for a depth only where the format has one", () => {
    expect(sent({ ...usual(16), format: "avif" }).bits).toBeNull();
    expect(sent({ ...usual(16), format: "png" }).bits).toBe(16);
  });

  it("keeps the location only with the metadata", () => {
    expect(sent({ ...usual(8), metadata: false, place: true }).keep_place).toBe(false);
    expect(sent({ ...usual(8), place: true }).keep_place).toBe(true);
  });

  it("takes from a preset what it knows", () => {
    const made = wishOf({ name: "Web", wish: { format: "webp", longSide: 1200, srgb: true, quality: "much", colour: 3 } }, 8);
    expect(made).toEqual({ ...usual(8), format: "webp", size: "side", longSide: 1200, profile: "srgb" });
    expect(wishOf({ name: "Odd", wish: { format: "bmp" } }, 8).format).toBe("jpeg");
  });

  it("knows how large a file gets", () => {
    const all = usual(8);
    expect(sizeOf(all, 3000, 2000)).toEqual([3000, 2000]);
    expect(sizeOf({ ...all, size: "side", longSide: 600 }, 3000, 2000)).toEqual([600, 400]);
    expect(sizeOf({ ...all, size: "megapixels", megapixels: 1.5 }, 3000, 2000)).toEqual([1500, 1000]);
    // 25.4 cm at 100 to the inch are 1000 pixels; never more than there are.
    expect(sizeOf({ ...all, size: "print", printCm: 25.4, perInch: 100 }, 3000, 2000)).toEqual([1000, 667]);
    expect(sizeOf({ ...all, size: "print", printCm: 254, perInch: 300 }, 3000, 2000)).toEqual([3000, 2000]);
    expect(sizeOf({ ...all, size: "side", longSide: 360, border: 10 }, 600, 400)).toEqual([360, 260]);
  });

  it("says what is wrong with a size", () => {
    expect(wrongSize({ ...usual(8), size: "side", longSide: 5 })).toContain("16");
    expect(wrongSize({ ...usual(8), size: "print", perInch: NaN })).not.toBe("");
    expect(wrongSize({ ...usual(8), longSide: 5 })).toBe("");
  });

  it("takes a detail from the middle of the screen, within the picture", () => {
    const picture = { width: 3000, height: 2000 };
    expect(detailOf({ x: 1000, y: 500, scale: 1 }, { width: 1000, height: 700 }, picture)).toEqual([1100, 550, 800, 600]);
    expect(detailOf({ x: -50, y: 1600, scale: 1 }, { width: 700, height: 450 }, picture)).toEqual([0, 1550, 700, 450]);
    // Very close: more around its middle, so that there is something to see on the page.
    expect(detailOf({ x: 1500, y: 1000, scale: 5 }, { width: 500, height: 500 }, picture)).toEqual([1250, 850, 600, 400]);
    expect(detailOf({ x: 0, y: 0, scale: 5 }, { width: 500, height: 500 }, { width: 480, height: 300 })).toEqual([0, 0, 480, 300]);
  });

  it("knows how dense a print is", () => {
    // 3000 pixels on 25.4 cm are 300 to the inch: an inch is 2.54 cm (international yard and pound agreement, 1959).
    expect(perInch(3000, 25.4)).toBeCloseTo(300, 6);
  });
});
