import { describe, expect, it } from "vitest";
import type { Finding } from "../../api/client";
import { crossing, numbers, stepsOf, zonesOf, type AtStep } from "./check";

const F: Finding = { name: "texture", title: "Texture left", meaning: "", zone: "nose", value: 61.4, limit: 70, unit: "%", side: "least", face: 0, place: null, words: "", amber: true, eases: true };
const at = (step: number, amber: boolean): AtStep => ({ step, label: `${step}`, value: 1, limit: 0, amber });

describe("readings", () => {
  it("are told with their limit, counts without a unit", () => {
    expect(numbers(F)).toBe("61 %, at least 70");
    expect(numbers({ ...F, value: 3.21, side: "most", limit: 2, unit: "L*" })).toBe("3.2 L*, at most 2");
    expect(numbers({ ...F, value: 12, unit: "", side: "told" })).toBe("12");
  });
  it("colour the zones that they are about", () => {
    const found = [F, { ...F, amber: false }, { ...F, zone: "chin", amber: false }, { ...F, zone: "jaw", side: "told" as const }, { ...F, zone: "ears", face: 1 }];
    expect([...zonesOf(found, 0)]).toEqual([["nose", true], ["chin", false]]);
  });
});

describe("the way through the history", () => {
  it("looks at both ends and evenly between", () => {
    expect(stepsOf(3, 9)).toEqual([0, 1, 2, 3]);
    expect(stepsOf(80, 9)).toEqual([0, 10, 20, 30, 40, 50, 60, 70, 80]);
  });
  it("finds where the limit was crossed last", () => {
    expect(crossing([at(0, false), at(2, true), at(4, false), at(9, true)])?.map((s) => s.step)).toEqual([4, 9]);
    expect(crossing([at(0, true), at(9, true)])).toBeNull();
  });
});
