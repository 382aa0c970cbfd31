import { describe, expect, it } from "vitest";
import { stopsOf } from "./sweep";

const place = (zone: string, rect: number[], face = 0) => ({ zone, face, rect, touches: 0, strength: 0, outlines: [] });

describe("the stops of a sweep", () => {
  it("go through the zones of one face, then the next, in a sensible order", () => {
    const places = [place("chin", [0, 80, 40, 100]), place("forehead", [0, 0, 40, 20]), place("nose", [9, 9, 20, 20], 1)];
    expect(stopsOf(places, 500, 500).map((s) => s.key)).toEqual(["0-forehead", "0-chin", "1-nose"]);
  });
  it("are as many as it takes to see a zone whole", () => {
    const stops = stopsOf([place("neck", [0, 0, 1000, 300])], 400, 400);
    expect(stops.length).toBe(3);
    const seen = stops.map((s) => [s.x - 200, s.x + 200]);
    expect(seen[0]![0]).toBeLessThanOrEqual(0);
    expect(seen[2]![1]).toBeGreaterThanOrEqual(1000);
    for (let k = 1; k < 3; k++) expect(seen[k]![0]).toBeLessThan(seen[k - 1]![1]!);
    expect(stops.map((s) => s.last)).toEqual([false, false, true]);
  });
  it("leave out what isn't skin", () => expect(stopsOf([place("hair", [0, 0, 9, 9])], 99, 99)).toEqual([]));
});
