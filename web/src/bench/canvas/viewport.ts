/** Where the picture lies on the screen. Pure functions on plain data. */

import { backOf, forthOf, ratioAt, type Frame } from "./frame";

/**
 * `scale`: CSS pixels per pixel of the framed picture; `x`, `y`: its place at the view's corner.
 * `frame`: where its places come from; none: the framed picture is the original.
 */
export interface View {
  scale: number;
  x: number;
  y: number;
  frame?: Frame;
}

export interface Size {
  width: number;
  height: number;
}

export interface Region {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

const MARGIN = 24;
export const LARGEST_SCALE = 16;
/** Zoom steps, as parts of 1:1. */
export const STEPS = [0.0625, 0.125, 0.1667, 0.25, 0.3333, 0.5, 0.6667, 1, 1.5, 2, 3, 4, 6, 8, 12, 16];

export function fitScale(picture: Size, screen: Size): number {
  return Math.max(
    0.01,
    Math.min(
      (screen.width - 2 * MARGIN) / picture.width,
      (screen.height - 2 * MARGIN) / picture.height,
    ),
  );
}

export function fit(picture: Size, screen: Size): View {
  const scale = fitScale(picture, screen);
  return {
    scale,
    x: (picture.width - screen.width / scale) / 2,
    y: (picture.height - screen.height / scale) / 2,
  };
}

/** Keep the picture in reach: at least a part of it stays in the view. */
export function clamp(view: View, picture: Size, screen: Size): View {
  const w = screen.width / view.scale;
  const h = screen.height / view.scale;
  const axis = (at: number, size: number, seen: number) =>
    seen >= size
      ? Math.min(Math.max(at, size - seen - seen * 0.25), seen * 0.25)
      : Math.min(Math.max(at, -seen * 0.5), size - seen * 0.5);
  return { ...view, x: axis(view.x, picture.width, w), y: axis(view.y, picture.height, h) };
}

/** Zoom so that the place under (`px`, `py`), in CSS pixels of the screen, stays where it is. */
export function zoomAt(
  view: View,
  factor: number,
  px: number,
  py: number,
  picture: Size,
  screen: Size,
): View {
  const least = Math.min(fitScale(picture, screen) * 0.5, 1);
  const scale = Math.min(Math.max(view.scale * factor, least), LARGEST_SCALE);
  return clamp(
    { ...view, scale, x: view.x + px / view.scale - px / scale, y: view.y + py / view.scale - py / scale },
    picture,
    screen,
  );
}

/** The place of the original under a place of the screen. */
export function toPicture(view: View, px: number, py: number): [number, number] {
  return backOf(view.frame, view.x + px / view.scale, view.y + py / view.scale);
}

/** Where a place of the original is seen. */
export function toScreen(view: View, x: number, y: number): [number, number] {
  const [fx, fy] = forthOf(view.frame, x, y);
  return [(fx - view.x) * view.scale, (fy - view.y) * view.scale];
}

/** CSS pixels per pixel of the original at a place of it. */
export function scaleAt(view: View, x: number, y: number): number {
  return view.scale / ratioAt(view.frame, x, y);
}

/** The part of the framed picture that is seen. */
export function seen(view: View, picture: Size, screen: Size): Region {
  return {
    x0: Math.max(0, view.x),
    y0: Math.max(0, view.y),
    x1: Math.min(picture.width, view.x + screen.width / view.scale),
    y1: Math.min(picture.height, view.y + screen.height / view.scale),
  };
}

/** A grid of pixels to ask the server for. */
export interface Grid {
  x: number;
  y: number;
  scale: number;
  width: number;
  height: number;
}

/**
 * The screen's own pixel grid over what is seen: device pixels up to 1:1, whole original pixels
 * above (the screen enlarges them).
 */
export function gridOf(view: View, picture: Size, screen: Size, ratio: number): Grid | null {
  const part = seen(view, picture, screen);
  if (part.x1 <= part.x0 || part.y1 <= part.y0) return null;
  const scale = Math.min(1, view.scale * ratio);
  const left = Math.floor(part.x0 * scale + 1e-6);
  const top = Math.floor(part.y0 * scale + 1e-6);
  return {
    x: left / scale,
    y: top / scale,
    scale,
    width: Math.max(1, Math.ceil(part.x1 * scale - 1e-6) - left),
    height: Math.max(1, Math.ceil(part.y1 * scale - 1e-6) - top),
  };
}

/** The whole picture with so many pixels on its longer side at most. */
export function wholeGrid(picture: Size, longSide: number): Grid {
  const scale = Math.min(1, longSide / Math.max(picture.width, picture.height));
  return {
    x: 0,
    y: 0,
    scale,
    width: Math.max(1, Math.floor(picture.width * scale)),
    height: Math.max(1, Math.floor(picture.height * scale)),
  };
}

/** Move the view so that device pixels and the picture's grid coincide. */
export function snap(view: View, ratio: number): View {
  const device = view.scale * ratio;
  return { ...view, x: Math.round(view.x * device) / device, y: Math.round(view.y * device) / device };
}

/** JPEG works in blocks; parts that keep to a view's blocks come out exactly as in the view. */
const BLOCK = 8;

/** The part of a grid that covers a region of the framed picture, in whole blocks; null if none. */
export function subGrid(
  grid: Grid,
  region: readonly number[],
): { grid: Grid; left: number; top: number } | null {
  const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = region;
  const before = (at: number) => Math.max(0, Math.floor((at * grid.scale - 2) / BLOCK) * BLOCK);
  const after = (at: number, size: number) =>
    Math.min(size, Math.ceil((at * grid.scale + 2) / BLOCK) * BLOCK);
  const [left, top] = [before(x0 - grid.x), before(y0 - grid.y)];
  const [right, bottom] = [after(x1 - grid.x, grid.width), after(y1 - grid.y, grid.height)];
  if (right <= left || bottom <= top) return null;
  return {
    left,
    top,
    grid: {
      x: grid.x + left / grid.scale,
      y: grid.y + top / grid.scale,
      scale: grid.scale,
      width: right - left,
      height: bottom - top,
    },
  };
}
