/** Move a part: outlined, then dragged to where it belongs; turned and scaled by its values. */
import type { Operation, Point } from "../../api/client";
import { Slider } from "../../ui/Slider";
import { passFor } from "../state/bands";
import { useBench } from "../state/bench";
import { useHand } from "../state/hand";
import { useOutline } from "../state/outline";
import type { Hand } from "./hand";
import { outline, takesOutlines } from "./outlining";
import { openAdded } from "./stroke";
import { FormChoice, HoldFeatures } from "./values";

function moved(path: Point[], shift: Point): Operation {
  const { partSoft: soft_px, holdFeatures: hold_features } = useHand.getState();
  const [across_px, down_px] = shift.map((v) => Math.round(2 * v) / 2) as [number, number];
  return {
    op: "add_touch",
    kind: "part",
    pass_id: passFor("part"),
    touch: { path, values: { across_px, down_px, soft_px, hold_features } },
  };
}

takesOutlines("part", {
  waits: true,
  take: (path, shift) =>
    useBench.getState().gesture(moved(path, shift ?? [0, 0]), (outcome) => {
      if (outcome) useOutline.getState().clear();
      openAdded(outcome);
    }),
  preview: (path, shift, work) => work.painter?.showDraft([moved(path, shift)], null),
});

function Values() {
  const { partSoft, set } = useHand();
  return (
    <>
      <FormChoice />
      <Slider
        label="Soft border"
        title="Pixels outside of the outline over which the motion fades"
        unit="px"
        min={2}
        max={600}
        initial={60}
        value={partSoft}
        onInput={(partSoft) => set({ partSoft })}
      />
      <HoldFeatures />
    </>
  );
}

export const movePart: Hand = {
  name: "part",
  title: "Move a part",
  icon: "hand-part",
  how: "Outline a part, then drag it to where it belongs",
  outlines: () => true,
  Values,
  gesture: outline,
};
