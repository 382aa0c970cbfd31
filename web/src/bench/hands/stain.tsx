/** Stain: outlined on cloth, its colour and light become those around, the weave stays. */
import { passFor, pxPerMm } from "../state/bands";
import { useBench } from "../state/bench";
import { useHand } from "../state/hand";
import { useOutline } from "../state/outline";
import type { Hand } from "./hand";
import { outline, takesOutlines } from "./outlining";
import { openAdded } from "./stroke";
import { FormChoice, Strength } from "./values";

/** Threads and their shade are finer than this. */
const WEAVE_MM = 0.7;

takesOutlines("stain", {
  take: (path) => {
    const weave_px = Math.max(1, Math.round(2 * WEAVE_MM * pxPerMm()) / 2);
    const { opacity } = useHand.getState();
    useBench.getState().gesture(
      { op: "add_touch", kind: "stain", pass_id: passFor("stain"), touch: { path, values: { weave_px, opacity } } },
      (outcome) => {
        if (outcome) useOutline.getState().clear();
        openAdded(outcome);
      },
    );
  },
});

export const stain: Hand = {
  name: "stain",
  title: "Stain",
  icon: "hand-stain",
  how: "Outline a stain on cloth; its colour goes, the weave stays",
  outlines: () => true,
  Values: () => (
    <>
      <FormChoice />
      <Strength />
    </>
  ),
  *gesture(first, work) {
    yield* outline(first, work);
  },
};
