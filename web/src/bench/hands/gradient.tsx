/** Gradient: the open pass acts fully at one place and not at all from another on. */
import { useHand } from "../state/hand";
import { fromTo, onScreen } from "./dragged";
import { Line } from "./drawings";
import type { Hand } from "./hand";
import { addArea } from "./masking";

const LEAST_PX = 4;

export const gradient: Hand = {
  name: "gradient",
  title: "Gradient",
  icon: "hand-gradient",
  how: "Drag from where the pass acts fully to where it ends",
  still: true,
  Drawing: Line,
  *gesture(first) {
    const { from: start, to: end, long } = yield* fromTo(first);
    if (onScreen(long) > LEAST_PX)
      addArea({ kind: "gradient", way: "add", invert: false, start, end, round: false });
    useHand.getState().set({ mode: "heal" });
  },
};
