/** Gestures with two ends: a box, a ring, a shift, a gradient. */
import type { Point } from "../../api/client";
import { useView } from "../state/view";
import { useDrawn } from "./drawn";
import { apart, rounded, type At, type Gesture } from "./hand";

/** From press to release; where both are, and how long it is in pixels of the original. */
export function* fromTo(first: At): Gesture<{ from: Point; to: Point; long: number }> {
  let to = first.at;
  try {
    for (let now = first; !now.last; ) {
      useDrawn.setState({ path: [first.at, to] });
      now = yield;
      to = now.last ? to : now.at;
    }
    const [from, end] = rounded([first.at, to]) as [Point, Point];
    return { from, to: end, long: apart(from, end) };
  } finally {
    useDrawn.setState({ path: null });
  }
}

/** A length of the picture on the screen. */
export function onScreen(long: number): number {
  return long * useView.getState().view.scale;
}
