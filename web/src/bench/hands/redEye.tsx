/** Red eye: a dab on a pupil that glows from the flash. */
import type { Hand } from "./hand";
import { paint, stroke } from "./stroke";
import { Size } from "./values";

export const redEye: Hand = {
  name: "red_eye",
  title: "Red eye",
  icon: "hand-pupil",
  how: "Click a glowing pupil; only the red glow under the brush goes",
  inTray: false,
  brush: () => true,
  still: true,
  Values: () => <Size />,
  *gesture(first) {
    paint("red_eye", yield* stroke(first), {}, false, true);
  },
};
