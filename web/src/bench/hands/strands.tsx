/** Strands: a click keeps or clears one that was found, a stroke along one clears it. */
import { Slider } from "../../ui/Slider";
import { pxPerMm } from "../state/bands";
import { useBench } from "../state/bench";
import { useHand } from "../state/hand";
import { nearestStrand } from "../state/strands";
import { endTrace } from "./drawn";
import type { Hand } from "./hand";
import { paint, stroke } from "./stroke";
import { Strength } from "./values";

/** A click means a strand from so many millimetres away. */
const NEAR_MM = 1.6;

function Values() {
  const { strandWidth, set } = useHand();
  return (
    <>
      <Slider
        label="Width"
        title="Of the strand that goes, with what it darkens beside it"
        unit="px"
        min={1}
        max={40}
        initial={5}
        value={strandWidth}
        onInput={(strandWidth) => set({ strandWidth })}
      />
      <Strength />
    </>
  );
}

export const strands: Hand = {
  name: "strands",
  title: "Strands",
  icon: "hand-strand",
  how: "Click a strand to keep or clear it; draw along one that wasn't found",
  still: true,
  Values,
  *gesture(first) {
    const { strandWidth, opacity } = useHand.getState();
    const values = { radius_px: strandWidth / 2, opacity };
    const done = yield* stroke(first);
    if (done.path.length > 1) return paint("strands", done, values, false, true);
    endTrace(done.key);
    const { passes, gesture } = useBench.getState();
    const all = passes.filter((p) => p.kind === "strands" && p.enabled).flatMap((p) => p.touches);
    const meant = nearestStrand(all, first.at, NEAR_MM * pxPerMm());
    if (meant) gesture({ op: "switch_strand", touch_id: meant.id });
  },
};
