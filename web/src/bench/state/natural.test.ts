import { describe, expect, it } from "vitest";
import { beyond } from "./natural";

describe("limits", () => {
  const limits = { least: 85, most: 110, change: 5 };
  it("mark too little texture, too much, and too far a change of colour", () => {
    expect(beyond({ texture: 100, change: 2 }, limits)).toBe(false);
    expect(beyond({ texture: 84, change: 0 }, limits)).toBe(true);
    expect(beyond({ texture: 111, change: 0 }, limits)).toBe(true);
    expect(beyond({ texture: 100, change: 5.5 }, limits)).toBe(true);
  });
});
