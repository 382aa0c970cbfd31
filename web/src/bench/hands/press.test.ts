import { describe, expect, it } from "vitest";
import { valuesOf } from "./press";

describe("a colour that is dragged", () => {
  it("comes nearer to the skin to the left and lighter upwards", () => {
    expect(valuesOf(-100, 0)).toEqual({ towards: 50, light: -0 });
    expect(valuesOf(0, -100)).toEqual({ towards: -0, light: 10 });
  });
  it("stops at the ends of the settings", () => {
    expect(valuesOf(900, 900)).toEqual({ towards: -100, light: -20 });
  });
});
