/** The frame: where places of the framed picture lie in the original, both ways. Pure functions. */
import type { Schemas } from "../../api/client";

type Sent = Schemas["FrameOut"];

/** Nine numbers of a matrix on homogeneous places, by rows. */
export type Matrix = readonly number[];

export interface Frame {
  /** Empty where the framed picture is the original. */
  key: string;
  width: number;
  height: number;
  back: Matrix;
  forth: Matrix;
}

export function frameOf(sent: Sent): Frame {
  return { key: sent.key, width: sent.width, height: sent.height, back: sent.matrix, forth: inverse(sent.matrix) };
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
  return frame?.key ? moved(frame.back, x, y) : [x, y];
}

/** The place of the framed picture at a place of the original. */
export function forthOf(frame: Frame | undefined, x: number, y: number): [number, number] {
  return frame?.key ? moved(frame.forth, x, y) : [x, y];
}

/** Pixels of the original per pixel of the framed picture, at a place of the original. */
export function ratioAt(frame: Frame | undefined, x: number, y: number): number {
  if (!frame?.key) return 1;
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
