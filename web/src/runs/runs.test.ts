import { describe, expect, it } from "vitest";
import { left, readings, type Item } from "./runs";

describe("a run", () => {
  it("says how long it still takes", () => {
    expect(left(null)).toBe("");
    expect(left(20)).toBe("less than a minute left");
    expect(left(70)).toBe("about 1 minute left");
    expect(left(600)).toBe("about 10 minutes left");
    expect(left(4 * 3600)).toBe("about 4 hours left");
  });

  it("tells the readings that there are", () => {
    const item = { healed: 3, asked: 0, texture: 96.4, colour: null } as Item;
    expect(readings(item)).toEqual(["3 spots healed", "texture 96 %"]);
  });
});
