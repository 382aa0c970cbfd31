/** Hair outline: draw where it belongs, and that piece of it goes there. */
import { useBench } from "../state/bench";
import { endTrace } from "./drawn";
import type { Hand } from "./hand";
import { stroke } from "./stroke";

export const hairline: Hand = {
  name: "hairline",
  title: "Hair outline",
  icon: "hand-hairline",
  how: "Draw where the outline of the hair belongs; that piece of it goes there",
  still: true,
  *gesture(first) {
    const done = yield* stroke(first);
    endTrace(done.key);
    if (done.path.length > 1) useBench.getState().gesture({ op: "mend_outline", path: done.path });
  },
};
