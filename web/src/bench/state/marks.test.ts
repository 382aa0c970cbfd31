import { describe, expect, it } from "vitest";
import { healing, inside, keptUnder, millimetres, sizedLabel, visibleMarks } from "./marks";

type Mark = Parameters<typeof visibleMarks>[0][number];

const mark = (part: Partial<Mark>): Mark => ({
  id: "0-0", face: 0, zone: "chin", x: 10, y: 20, radius: 4, reach: 6, kind: "red", contrast: 0.3,
  blood: 0.8, confidence: 0.6, proposal: "clear", decision: "clear", touch_id: null, cleared: false,
  ...part,
});

describe("marks", () => {
  it("are shown by sensitivity and face", () => {
    const marks = [mark({ confidence: 0.9 }), mark({ confidence: 0.4 }), mark({ face: 1, confidence: 0.9 })];
    expect(visibleMarks(marks, 50)).toHaveLength(2);
    expect(visibleMarks(marks, 50, 0)).toHaveLength(1);
    expect(visibleMarks(marks, 70, 0)).toHaveLength(2);
  });
  it("stay in sight once decided", () => {
    expect(visibleMarks([mark({ confidence: 0.1, touch_id: "t" })], 20)).toHaveLength(1);
  });
  it("become brushes that cover their halo", () => {
    const [touch] = healing([mark({ reach: 10 })], 20);
    expect(touch!.values.radius_px).toBe(12.5);
    expect(touch!.path).toEqual([[10, 20]]);
  });
});

describe("kept marks", () => {
  it("are asked about where a stroke covers one the user decided on", () => {
    const kept = mark({ decision: "keep", touch_id: "t" });
    expect(keptUnder([kept], [[12, 20]], 5)).toHaveLength(1);
    expect(keptUnder([kept], [[30, 20]], 5)).toHaveLength(0);
    expect(keptUnder([mark({ decision: "keep" })], [[12, 20]], 5)).toHaveLength(0);
  });
});

describe("a lasso", () => {
  const hollow = [[0, 0], [10, 0], [10, 10], [5, 3], [0, 10]];
  it("holds what is inside, also where it is hollow", () => {
    expect(inside(hollow, 1, 5)).toBe(true);
    expect(inside(hollow, 5, 8)).toBe(false);
    expect(inside(hollow, 20, 5)).toBe(false);
  });
  it("of two points holds nothing", () => expect(inside([[0, 0], [9, 9]], 4, 4)).toBe(false));
});

describe("words", () => {
  it("count", () => {
    expect(sizedLabel(1, "keep")).toBe("1 mark: keep");
    expect(sizedLabel(3, "clear")).toBe("3 marks: clear");
  });
  it("measure", () => {
    expect(millimetres(24, 6)).toBe("4.0 mm");
    expect(millimetres(240, 6)).toBe("40 mm");
  });
});
