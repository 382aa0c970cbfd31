import { describe, expect, it } from "vitest";
import { BINS, histogramOf } from "./tones";

const pixel = (r: number, g: number, b: number, a = 255) => [r, g, b, a];

describe("a histogram", () => {
  it("counts values where they lie and what is clipped", () => {
    const data = [...pixel(128, 128, 128), ...pixel(128, 128, 128), ...pixel(255, 200, 90), ...pixel(0, 20, 30), ...pixel(9, 9, 9, 0)];
    const { counts, lost, closed } = histogramOf(data);
    expect(counts[0]![BINS / 2]).toBe(1);
    expect(counts[1]!.at(-1)).toBe(0.5);
    expect(lost).toBe(0.25);
    expect(closed).toBe(0.25);
  });

  it("is empty where there is no picture", () => {
    const { counts, lost } = histogramOf(pixel(200, 200, 200, 0));
    expect(Math.max(...counts[0]!)).toBe(0);
    expect(lost).toBe(0);
  });
});
