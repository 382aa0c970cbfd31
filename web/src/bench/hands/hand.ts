/**
 * What a hand is: its words and drawing, its values in the tray, and what the pointer does with it.
 *
 * A gesture is one generator: it begins with the press, gets a place at every move, and ends after
 * the release. Let go of early (Escape, a lost pointer) it is returned: what it has to take back stands in
 * its `finally`.
 */
import type { ComponentType } from "react";
import type { Operation, Point } from "../../api/client";
import type { Mode } from "../state/hand";

/** Where the pointer is during a gesture. */
export interface At {
  /** In pixels of the original. */
  at: Point;
  /** On the screen, CSS pixels. */
  screen: Point;
  /** How hard a pen is pressed, 0 to 1; null for what has no pressure. */
  pressure: number | null;
  alt: boolean;
  /** It was let go here. */
  last: boolean;
}

export type Gesture<T = void> = Generator<void, T, At>;

/** Shows what isn't saved yet. */
export interface Shows {
  showDraft: (operations: Operation[], region: readonly number[] | null) => void;
  endDraft: () => void;
}

/** What gestures may use. */
export interface Work {
  painter: Shows | null;
}

export interface Hand {
  name: Mode;
  title: string;
  icon: string;
  how: string;
  /** It stands in the tray's row. */
  inTray?: boolean;
  /** It has a brush circle now. */
  brush?: () => boolean;
  /** Its strokes take from a place that can be chosen. */
  takes?: boolean;
  /** It draws outlines now. */
  outlines?: () => boolean;
  /** Touches can't be taken hold of while it paints over them. */
  still?: boolean;
  /** The key that chose it pressed again. */
  again?: () => void;
  /** Values of the next touch, in the tray. */
  Values?: ComponentType;
  /** What is under way, drawn over the picture. */
  Drawing?: ComponentType<{ path: readonly Point[] }>;
  gesture: (first: At, work: Work) => Gesture;
}

/** Places rounded to hundredths of a pixel, as they are saved. */
export function rounded(path: readonly Point[]): Point[] {
  return path.map(([x, y]) => [Math.round(x * 100) / 100, Math.round(y * 100) / 100]);
}

export function apart(a: Point, b: Point): number {
  return Math.hypot(b[0] - a[0], b[1] - a[1]);
}
