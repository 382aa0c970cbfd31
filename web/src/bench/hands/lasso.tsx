/** Lasso: marks are selected by drawing around them. */
import type { Point } from "../../api/client";
import { useFaces } from "../state/faces";
import { inside } from "../state/marks";
import { Loop } from "./drawings";
import { useDrawn } from "./drawn";
import { apart, type Hand } from "./hand";
import { Size, Softness, Strength } from "./values";

/** Points of the line closer than this, in pixels of the original, add nothing. */
const SPACING = 0.8;

export const lasso: Hand = {
  name: "lasso",
  title: "Lasso",
  icon: "hand-around",
  how: "Draw around marks",
  Drawing: Loop,
  Values: () => (
    <>
      <Size />
      <Softness />
      <Strength />
    </>
  ),
  *gesture(first) {
    const path: Point[] = [first.at];
    try {
      for (let now = first; !now.last; ) {
        useDrawn.setState({ path: [...path] });
        now = yield;
        if (!now.last && apart(path.at(-1)!, now.at) >= SPACING) path.push(now.at);
      }
      const { analysis, set } = useFaces.getState();
      const marks = analysis?.marks ?? [];
      set({ selected: marks.filter((m) => inside(path, m.x, m.y)).map((m) => m.id) });
    } finally {
      useDrawn.setState({ path: null });
    }
  },
};
