/** Frames dragged by hand, on the plane: the straightened picture, its middle the origin. Pure functions. */
import { moved, type Matrix } from "./frame";
import type { Size } from "./viewport";

/** x0, y0, x1, y1. */
export type Box = [number, number, number, number];
/** Which sides a handle moves: -1 the left or upper, 1 the right or lower, 0 none. */
export type Handle = readonly [-1 | 0 | 1, -1 | 0 | 1];

export const HANDLES: { at: Handle; words: string }[] = [
  { at: [-1, -1], words: "top left corner" },
  { at: [0, -1], words: "top side" },
  { at: [1, -1], words: "top right corner" },
  { at: [1, 0], words: "right side" },
  { at: [1, 1], words: "bottom right corner" },
  { at: [0, 1], words: "bottom side" },
  { at: [-1, 1], words: "bottom left corner" },
  { at: [-1, 0], words: "left side" },
];

export const LEAST = 16;
const HALVINGS = 24;

/** Whether a box of the plane lies in the picture; `plane` goes from the plane to the original. */
export function inPicture([x0, y0, x1, y1]: Box, plane: Matrix, picture: Size): boolean {
  return [[x0, y0], [x1, y0], [x1, y1], [x0, y1]].every(([x, y]) => {
    if (plane[6]! * x! + plane[7]! * y! + plane[8]! <= 0.05) return false;
    const [px, py] = moved(plane, x!, y!);
    const edge = 0.01;
    return px >= -edge && py >= -edge && px <= picture.width + edge && py <= picture.height + edge;
  });
}

/** As far from one box towards another as the picture goes. */
export function within(from: Box, to: Box, plane: Matrix, picture: Size): Box {
  if (inPicture(to, plane, picture)) return to;
  let [low, high] = [0, 1];
  const part = (t: number) => from.map((v, n) => v + t * (to[n]! - v)) as Box;
  for (let n = 0; n < HALVINGS; n++) {
    const middle = (low + high) / 2;
    if (inPicture(part(middle), plane, picture)) low = middle;
    else high = middle;
  }
  return part(low);
}

/** A box with one handle dragged by (dx, dy); `ratio`: width per height to keep, 0: free. */
export function resized(box: Box, [hx, hy]: Handle, dx: number, dy: number, ratio: number): Box {
  const [x0, y0, x1, y1] = box;
  let w = Math.max(x1 - x0 + hx * dx, LEAST);
  let h = Math.max(y1 - y0 + hy * dy, LEAST);
  if (ratio > 0) {
    if (hx === 0) w = h * ratio;
    else if (hy === 0) h = w / ratio;
    else if (w / h > ratio) h = w / ratio;
    else w = h * ratio;
  }
  // The side that isn't held stays; of a side's handle, the middle of the other two.
  const place = (at: -1 | 0 | 1, low: number, high: number, size: number) =>
    at < 0 ? high - size : at > 0 ? low : (low + high - size) / 2;
  const [left, top] = [place(hx, x0, x1, w), place(hy, y0, y1, h)];
  return [left, top, left + w, top + h];
}

/** A box moved by (dx, dy): each way as far as the picture goes. */
export function shifted(box: Box, dx: number, dy: number, plane: Matrix, picture: Size, free: boolean): Box {
  const by = (x: number, y: number): Box => [box[0] + x, box[1] + y, box[2] + x, box[3] + y];
  if (free) return by(dx, dy);
  const first = within(box, by(dx, 0), plane, picture);
  const along = first[0] - box[0];
  return within(first, by(along, dy), plane, picture);
}

/** The largest box of a ratio around the middle of another one, about as large, in the picture. */
export function ofRatio(box: Box, ratio: number, plane: Matrix, picture: Size, free: boolean): Box {
  const [cx, cy] = [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2];
  const area = (box[2] - box[0]) * (box[3] - box[1]);
  const [w, h] = [Math.sqrt(area * ratio), Math.sqrt(area / ratio)];
  const wanted: Box = [cx - w / 2, cy - h / 2, cx + w / 2, cy + h / 2];
  return free ? wanted : within([cx, cy, cx, cy], wanted, plane, picture);
}

/** What a frame's settings say of a box. */
export function settingsOf([x0, y0, x1, y1]: Box, plane: Matrix, picture: Size) {
  const [x, y] = moved(plane, (x0 + x1) / 2, (y0 + y1) / 2);
  const tidy = (v: number, most: number) => Math.round(Math.min(Math.max(v, 0), most) * 100) / 100;
  return {
    centre_x_px: tidy(x, picture.width),
    centre_y_px: tidy(y, picture.height),
    width_px: Math.round(x1 - x0),
    height_px: Math.round(y1 - y0),
  };
}

/** How far a direction on the screen is from the nearest level or upright one, -45..45 degrees. */
export function offLevel(dx: number, dy: number): number {
  const degrees = (Math.atan2(dy, dx) * 180) / Math.PI;
  return ((((degrees + 45) % 90) + 90) % 90) - 45;
}
