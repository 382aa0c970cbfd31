/** Clone: a plain copy from another place. */
import { useHand } from "../state/hand";
import type { Hand } from "./hand";
import { paint, stroke, unlessKept } from "./stroke";
import { Flow, Size, Softness, Strength } from "./values";

export const clone: Hand = {
  name: "clone",
  title: "Clone",
  icon: "hand-clone",
  how: "A plain copy, from where you Alt-click",
  inTray: true,
  brush: () => true,
  takes: true,
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
    unlessKept(done, "Clone", () => paint("clone", done, { flow: useHand.getState().flow }, true));
  },
};
