import { describe, expect, it } from "vitest";
import { crossStep } from "./crossing";

const SCREEN = { width: 800, height: 600 };
const USUAL = { far: false, fine: false };

describe("the cross", () => {
  it("goes a step, far, or one pixel", () => {
    expect(crossStep([400, 300], "ArrowRight", USUAL, SCREEN)).toEqual({ at: [408, 300], pan: [0, 0] });
    expect(crossStep([400, 300], "ArrowUp", { far: true, fine: false }, SCREEN).at).toEqual([400, 252]);
    expect(crossStep([400, 300], "ArrowLeft", { far: true, fine: true }, SCREEN).at).toEqual([399, 300]);
  });
  it("stays in the window, and the picture comes to it", () => {
    expect(crossStep([770, 300], "ArrowRight", USUAL, SCREEN)).toEqual({ at: [776, 300], pan: [-2, 0] });
    expect(crossStep([400, 24], "ArrowUp", USUAL, SCREEN)).toEqual({ at: [400, 24], pan: [0, 8] });
  });
});
