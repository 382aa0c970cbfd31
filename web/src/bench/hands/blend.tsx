/** Blend: neighbouring tones mixed under the brush. */
import { useHand } from "../state/hand";
import type { Hand } from "./hand";
import { paint, stroke } from "./stroke";
import { Flow, Size, Softness, Strength } from "./values";

export const blend: Hand = {
  name: "blend",
  title: "Blend",
  icon: "hand-blend",
  how: "Mixes neighbouring tones; the detail over them stays",
  inTray: true,
  brush: () => true,
  still: true,
  Values: () => (
    <>
      <Size />
      <Softness />
      <Strength />
      <Flow />
    </>
  ),
  *gesture(first) {
    const done = yield* stroke(first);
    paint("blend", done, { flow: useHand.getState().flow }, false);
  },
};
