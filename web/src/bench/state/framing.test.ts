import { beforeEach, describe, expect, it } from "vitest";
import { zoneAt } from "../panels/mapZones";
import { useBench } from "./bench";
import type { Place } from "./faces";
import { isTurned, ratioOf, type Ratio } from "./framing";

const ratio = (name: Ratio, { tall = true, typed = "7:5", turn = "0" } = {}) => ratioOf({ ratio: name, tall, typed, settings: { turn } });

describe("the ratio of a frame", () => {
  beforeEach(() => useBench.setState({ portrait: { width: 2000, height: 2500 } as never }));

  it("is upright or across as it is taken", () => {
    expect([ratio("4:3"), ratio("4:3", { tall: false }), ratio("1:1")]).toEqual([3 / 4, 4 / 3, 1]);
    expect([ratio("own"), ratio("own", { tall: false })]).toEqual([0.8, 1.25]);
    expect(ratio("free")).toBe(0);
  });

  it("that is typed counts as it is written, by colon, slash or times, with a comma or a point", () => {
    for (const [typed, is] of [["7:5", 1.4], ["5/7", 5 / 7], ["13x18", 13 / 18], ["13×18", 13 / 18], ["1,85:1", 1.85], ["2.35 : 1", 2.35]] as const)
      expect(ratio("typed", { typed, tall: true })).toBeCloseTo(is, 9);
  });

  it("is none where what is typed is none, or a strip", () => {
    for (const typed of ["", "7", "a:b", "0:3", "-4:3", "4:-3", "21:1", "1:40"]) expect(ratio("typed", { typed })).toBeNaN();
  });

  it("on a picture that lies on its side is the other way round on the plane", () => {
    for (const turn of ["90", "270"]) {
      expect(isTurned({ turn })).toBe(true);
      expect(ratio("3:2", { turn })).toBeCloseTo(1.5, 9);
    }
    for (const turn of ["0", "180"]) expect(isTurned({ turn })).toBe(false);
  });

  it("isn't known without a portrait", () => {
    useBench.setState({ portrait: null });
    expect(ratio("3:2")).toBe(0);
  });
});

describe("the zone that a place lies in", () => {
  const place = (zone: string, ...rect: number[]) => ({ zone, rect, face: 0 }) as unknown as Place;
  const places = [place("forehead", 0, 0, 100, 40), place("nose", 40, 30, 60, 80), place("irises", 20, 40, 30, 50), place("jaw", 0, 0, 100, 100)];

  it("is the smallest of those that a map shows", () => {
    expect(zoneAt(places, 50, 35)).toBe("nose");
    expect(zoneAt(places, 10, 10)).toBe("forehead");
    // An iris is too small for a map.
    expect(zoneAt(places, 25, 45)).toBe("jaw");
    expect(zoneAt(places, 140, 10)).toBeNull();
    expect(zoneAt([], 1, 1)).toBeNull();
  });
});
