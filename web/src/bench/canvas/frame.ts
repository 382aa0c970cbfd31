/** The frame: where places of the framed picture lie in the original, both ways. Pure functions. */
import type { Schemas } from "../../api/client";

type Sent = Schemas["FrameOut"];

/** Nine numbers of a matrix on homogeneous places, by rows. */
export type Matrix = readonly number[];

/** What passes of Shape move before the frame: shifts at nodes, evenly between them. */
export interface Moved {
  key: string;
  x: number;
  y: number;
  step: number;
  columns: number;
  rows: number;
  shifts: Float32Array;
}

export interface Frame {
  /** Empty where the framed picture is the original. */
  key: string;
  width: number;
  height: number;
  back: Matrix;
  forth: Matrix;
  /** Set anew with every gesture that moves something: who paints goes on with the same frame. */
  moved: Moved | null;
}

export function frameOf(sent: Sent): Frame {
  const frame: Frame = { key: sent.key, width: sent.width, height: sent.height, back: sent.matrix, forth: inverse(sent.matrix), moved: null };
  setMoved(frame, sent.moved ?? null);
  return frame;
}

/** Tell a frame what is moved now. */
export function setMoved(frame: Frame, sent: Sent["moved"]) {
  if (!sent) frame.moved = null;
  else if (frame.moved?.key !== sent.key) {
    const bytes = Uint8Array.from(atob(sent.shifts), (c) => c.charCodeAt(0));
    frame.moved = { ...sent, shifts: new Float32Array(bytes.buffer) };
  }
}

/** How far away what is shown at a place comes from, before the frame. */
function shiftAt({ x: left, y: top, step, columns, rows, shifts }: Moved, x: number, y: number): [number, number] {
  const [u, v] = [(x - left) / step, (y - top) / step];
  if (u < 0 || v < 0 || u > columns - 1 || v > rows - 1) return [0, 0];
  const [j, i] = [Math.min(Math.floor(u), columns - 2), Math.min(Math.floor(v), rows - 2)];
  const [fx, fy] = [u - j, v - i];
  const at = (row: number, column: number, k: number) => shifts[2 * (row * columns + column) + k]!;
  const mixed = (k: number) =>
    (at(i, j, k) * (1 - fx) + at(i, j + 1, k) * fx) * (1 - fy) + (at(i + 1, j, k) * (1 - fx) + at(i + 1, j + 1, k) * fx) * fy;
  return [mixed(0), mixed(1)];
}

function movedBack(moved: Moved | null, [x, y]: [number, number]): [number, number] {
  if (!moved) return [x, y];
  const [dx, dy] = shiftAt(moved, x, y);
  return [x + dx, y + dy];
}

/** The other way: looked for step by step, each with half of what is missing at least. */
function movedForth(moved: Moved | null, [x, y]: [number, number]): [number, number] {
  if (!moved) return [x, y];
  let [u, v] = [x, y];
  for (let n = 0; n < 24; n++) {
    const [dx, dy] = shiftAt(moved, u, v);
    const [ex, ey] = [x - u - dx, y - v - dy];
    if (Math.abs(ex) + Math.abs(ey) < 0.02) break;
    [u, v] = [u + 0.6 * ex, v + 0.6 * ey];
  }
  return [u, v];
}

export function inverse([a = 0, b = 0, c = 0, d = 0, e = 0, f = 0, g = 0, h = 0, i = 0]: Matrix): Matrix {
  const [A, B, C] = [e * i - f * h, f * g - d * i, d * h - e * g];
  const det = a * A + b * B + c * C;
  return [A, c * h - b * i, b * f - c * e, B, a * i - c * g, c * d - a * f, C, b * g - a * h, a * e - b * d].map((v) => v / det);
}

export function product(m: Matrix, n: Matrix): Matrix {
  return Array.from({ length: 9 }, (_, k) => {
    const [row, col] = [3 * Math.floor(k / 3), k % 3];
    return m[row]! * n[col]! + m[row + 1]! * n[col + 3]! + m[row + 2]! * n[col + 6]!;
  });
}

export function moved([a = 1, b = 0, c = 0, d = 0, e = 1, f = 0, g = 0, h = 0, i = 1]: Matrix, x: number, y: number): [number, number] {
  const w = g * x + h * y + i;
  return [(a * x + b * y + c) / w, (d * x + e * y + f) / w];
}

/** The place of the original at a place of the framed picture. */
export function backOf(frame: Frame | undefined, x: number, y: number): [number, number] {
  return frame ? movedBack(frame.moved, frame.key ? moved(frame.back, x, y) : [x, y]) : [x, y];
}

/** The place of the framed picture at a place of the original. */
export function forthOf(frame: Frame | undefined, x: number, y: number): [number, number] {
  if (!frame) return [x, y];
  const [u, v] = movedForth(frame.moved, [x, y]);
  return frame.key ? moved(frame.forth, u, v) : [u, v];
}

/** Pixels of the original per pixel of the framed picture, at a place of the original. */
export function ratioAt(frame: Frame | undefined, x: number, y: number): number {
  if (!frame || (!frame.key && !frame.moved)) return 1;
  const [x0, y0] = forthOf(frame, x, y);
  const [x1, y1] = forthOf(frame, x + 1, y);
  const [x2, y2] = forthOf(frame, x, y + 1);
  return 1 / Math.sqrt(Math.abs((x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)));
}

/** The rectangle of the framed picture around a rectangle (x0, y0, x1, y1) of the original. */
export function around(frame: Frame | undefined, [x0 = 0, y0 = 0, x1 = 0, y1 = 0]: readonly number[]): [number, number, number, number] {
  const ends = [[x0, y0], [x1, y0], [x0, y1], [x1, y1]].map(([x, y]) => forthOf(frame, x!, y!));
  const [xs, ys] = [ends.map((p) => p[0]), ends.map((p) => p[1])];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}
