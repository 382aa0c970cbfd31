/** Patch: an outlined place replaced by another one. */
import type { Operation, Point } from "../../api/client";
import { Slider } from "../../ui/Slider";
import { bandSettings, passFor } from "../state/bands";
import { useBench } from "../state/bench";
import { useHand } from "../state/hand";
import { useOutline } from "../state/outline";
import type { Hand } from "./hand";
import { outline, takesOutlines } from "./outlining";
import { openAdded } from "./stroke";
import { FormChoice, Strength, Switching } from "./values";

/** The patch that an outline becomes when it is dragged by a shift; without one a source is found. */
function patchOf(path: Point[], shift: Point | null): Operation {
  const { way, edge, opacity } = useHand.getState();
  const source: Point | null = shift && [Math.round(shift[0]), Math.round(shift[1])];
  return {
    op: "add_touch",
    kind: "patch",
    pass_id: passFor("patch"),
    settings: bandSettings("patch"),
    touch: { path, values: { way, feather_px: edge, opacity }, source },
  };
}

takesOutlines("patch", {
  // It waits to be dragged, or for a source to be found.
  waits: true,
  take: (path, shift) =>
    useBench.getState().gesture(patchOf(path, shift), (outcome) => {
      if (outcome) useOutline.getState().clear();
      openAdded(outcome);
    }),
  preview: (path, shift, work) => {
    const [xs, ys] = [path.map((p) => p[0]), path.map((p) => p[1])];
    const region = [Math.min(...xs) - 2, Math.min(...ys) - 2, Math.max(...xs) + 2, Math.max(...ys) + 2];
    work.painter?.showDraft([patchOf(path, shift)], region);
  },
});

function Values() {
  const { way, edge, set } = useHand();
  const blends = way === "blend";
  return (
    <>
      <FormChoice />
      <Switching
        label={blends ? "Blend" : "Copy"}
        title={blends ? "Blended: tone and light from around; click to copy plainly" : "Copied as it is; click to blend"}
        icon={blends ? "hand-blend" : "hand-clone"}
        onClick={() => set({ way: blends ? "copy" : "blend" })}
      >
        {blends ? "Blend" : "Copy"}
      </Switching>
      <Slider
        label="Soft edge"
        title="Width inside of the outline over which the patch fades"
        unit="px"
        min={0}
        max={100}
        initial={6}
        value={edge}
        onInput={(edge) => set({ edge })}
      />
      <Strength />
    </>
  );
}

export const patch: Hand = {
  name: "patch",
  title: "Patch",
  icon: "hand-patch",
  how: "Outline a place, then drag it onto clean skin",
  inTray: true,
  outlines: () => true,
  Values,
  gesture: outline,
};
