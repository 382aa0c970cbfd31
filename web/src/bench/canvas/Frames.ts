/** Pixels that were fetched, with the grid they lie on. */
import type { Pixels } from "../../api/client";
import type { Grid } from "./viewport";

export interface Frame {
  canvas: HTMLCanvasElement;
  grid: Grid;
}

export function frameOf(bitmap: ImageBitmap, grid: Grid): Frame {
  const canvas = document.createElement("canvas");
  canvas.width = bitmap.width;
  canvas.height = bitmap.height;
  canvas.getContext("2d")!.drawImage(bitmap, 0, 0);
  bitmap.close();
  return { canvas, grid };
}

/** Whether a frame has all pixels of a grid. */
export function covers(frame: Frame | null | undefined, grid: Grid): boolean {
  if (!frame) return false;
  const f = frame.grid;
  const eps = 0.25 / grid.scale;
  return (
    Math.abs(f.scale - grid.scale) < 1e-9 &&
    f.x <= grid.x + eps &&
    f.y <= grid.y + eps &&
    f.x + f.width / f.scale >= grid.x + grid.width / grid.scale - eps &&
    f.y + f.height / f.scale >= grid.y + grid.height / grid.scale - eps
  );
}

/** Whether two grids hold the same pixels. */
export function sameGrid(a: Grid, b: Grid): boolean {
  const near = (p: number, q: number) => Math.abs(p - q) < 1e-6;
  return near(a.x, b.x) && near(a.y, b.y) && near(a.scale, b.scale) && a.width === b.width && a.height === b.height;
}

/** Pixels that came within an answer. */
export function decoded({ jpeg }: Pixels): Promise<ImageBitmap> {
  const text = atob(jpeg);
  const bytes = new Uint8Array(text.length);
  for (let n = 0; n < text.length; n++) bytes[n] = text.charCodeAt(n);
  return createImageBitmap(new Blob([bytes], { type: "image/jpeg" }));
}

/** Put a part into a frame of another scale. */
export function patch(frame: Frame | null, bitmap: ImageBitmap, grid: Grid) {
  if (!frame) return;
  const s = frame.grid.scale;
  const context = frame.canvas.getContext("2d")!;
  context.imageSmoothingQuality = "high";
  context.drawImage(bitmap, grid.x * s, grid.y * s, (grid.width / grid.scale) * s, (grid.height / grid.scale) * s);
}
