import { describe, expect, it } from "vitest";
import { perInch, sent, usual, wishOf } from "./wish";

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
    const made = wishOf({ name: "Web", wish: { format: "webp", longSide: 2048, quality: "much", colour: 3 } }, 8);
    expect(made).toEqual({ ...usual(8), format: "webp", longSide: 2048 });
    expect(wishOf({ name: "Odd", wish: { format: "bmp" } }, 8).format).toBe("jpeg");
  });

  it("knows how dense a print is", () => {
    // 3000 pixels on 25.4 cm are 300 to the inch: an inch is 2.54 cm (international yard and pound agreement, 1959).
    expect(perInch(3000, 25.4)).toBeCloseTo(300, 6);
  });
});
