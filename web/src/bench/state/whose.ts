/** Which of the people found something belongs to. */
import type { Face } from "./faces";

type Point = readonly [number, number];

/** Stands for a person of whom no face is found. */
export const GONE = -2;

/** The number of the person that a face in an edit means, -1 for everyone: the one whose face holds the place. */
export function whose(face: Point | number | null | undefined, faces: readonly Face[]): number {
  if (face === null || face === undefined) return -1;
  if (typeof face === "number") return face < faces.length ? face : GONE;
  const holds = ({ box: [x = 0, y = 0, w = 0, h = 0] }: Face) =>
    face[0] >= x && face[0] <= x + w && face[1] >= y && face[1] <= y + h;
  const near = faces.filter(holds).sort((a, b) => away(a.anchor, face) / a.box[3]! - away(b.anchor, face) / b.box[3]!);
  return near[0]?.number ?? GONE;
}

function away(a: Point, b: Point): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1]);
}
