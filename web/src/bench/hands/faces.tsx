/** Face, iris and nudge: what the user says about where faces are and how large. */
import type { Point } from "../../api/client";
import { useBench } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";
import { fromTo, onScreen } from "./dragged";
import { Box, Line, Ring } from "./drawings";
import type { At, Gesture, Hand } from "./hand";
import { Size, Softness, Strength } from "./values";

const LEAST_BOX_PX = 12;
const LEAST_IRIS = 1.5;
const LEAST_SHIFT = 0.5;

function say(what: string, path: Point[], radius_px?: number) {
  const values: Record<string, string | number> = radius_px ? { what, radius_px } : { what };
  useBench
    .getState()
    .gesture({ op: "add_touch", kind: "faces", touch: { path, values } }, () => void useFaces.getState().refresh());
}

/** A gesture with two ends that is made once: then the hand heals again. */
function once(use: (from: Point, to: Point, long: number) => void): (first: At) => Gesture {
  return function* (first) {
    const { from, to, long } = yield* fromTo(first);
    use(from, to, long);
    useHand.getState().set({ mode: "heal" });
  };
}

const Values = () => (
  <>
    <Size />
    <Softness />
    <Strength />
  </>
);

export const face: Hand = {
  name: "face",
  title: "Face",
  icon: "hand-face",
  how: "Drag a box around the face",
  Drawing: Box,
  Values,
  gesture: once((from, to, long) => onScreen(long) > LEAST_BOX_PX && say("face", [from, to])),
};

export const iris: Hand = {
  name: "iris",
  title: "Iris",
  icon: "hand-iris",
  how: "Press in the middle of the iris and drag to its rim",
  Drawing: Ring,
  Values,
  gesture: once((from, _, long) => long >= LEAST_IRIS && say("iris", [from], long)),
};

export const nudge: Hand = {
  name: "nudge",
  title: "Nudge",
  icon: "hand-points",
  how: "Drag a feature to where it is",
  Drawing: Line,
  Values,
  gesture: once((from, to, long) => long >= LEAST_SHIFT && say("nudge", [from, to])),
};
