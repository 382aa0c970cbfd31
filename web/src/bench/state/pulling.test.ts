import { describe, expect, it } from "vitest";
import { nearest, pulledBy, type Hold } from "./pulling";

const pull = (number: string, way: [number, number], per_mm: number) => ({ number, title: number, unit: "mm", pair: "", way, per_mm });
const CORNER: Hold = { title: "Corner of the mouth", side: "left", face: 0, at: [100, 100], pulls: [pull("mouth_width", [1, 0], 2), pull("mouth_smile", [0, -1], 1)] };
const CHIN: Hold = { title: "Chin", side: "", face: 0, at: [60, 160], pulls: [pull("face_chin", [0, -1], -1)] };

describe("taking hold", () => {
  it("means the nearest part, and none that is far", () => {
    expect(nearest([CORNER, CHIN], [70, 150], 5)).toBe(CHIN);
    expect(nearest([CORNER, CHIN], [97, 108], 5)).toBe(CORNER);
    expect(nearest([CORNER, CHIN], [200, 300], 5)).toBeNull();
  });

  it("changes the number whose way the hand goes most, in its own measure", () => {
    expect(pulledBy(CORNER, 10, 3, 5)).toMatchObject({ pull: { number: "mouth_width" }, along: 2, amount: 4 });
    expect(pulledBy(CORNER, 3, -10, 5)).toMatchObject({ pull: { number: "mouth_smile" }, amount: 2 });
    expect(pulledBy(CHIN, 4, 15, 5)).toMatchObject({ pull: { number: "face_chin" }, amount: 3 });
  });
});
