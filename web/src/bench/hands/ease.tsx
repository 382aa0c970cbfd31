/** Ease: a part of what the open pass did is taken back, or brought back. */
import { useBench } from "../state/bench";
import { useHand } from "../state/hand";
import { endTrace, seen } from "./drawn";
import type { Hand } from "./hand";
import { stroke } from "./stroke";
import { Flow, PerCent, Size, Softness, Switching } from "./values";

function other() {
  const { reveal, set } = useHand.getState();
  set({ reveal: !reveal });
}

function Values() {
  const { reveal, easeSet, set } = useHand();
  const bound = useBench((s) => s.passes.find((p) => p.id === s.openPass)?.bound);
  return (
    <>
      <Switching
        active={reveal}
        title={reveal ? "Brings back; click to ease" : "Eases; click to bring back"}
        action="ease"
        icon={reveal ? "hand-back" : "hand-ease"}
        onClick={other}
      >
        {reveal ? "Bring back" : "Ease"}
      </Switching>
      {bound && (
        <Switching
          label="Whole set"
          active={easeSet}
          title={`Eases what the whole set ${bound.name} did, not the open pass alone`}
          onClick={() => set({ easeSet: !easeSet })}
        >
          Set
        </Switching>
      )}
      <Size />
      <Softness />
      <PerCent
        label="Edges"
        title="Keeps to colours like those under the stroke: 0 not at all, 100 strictly"
        field="maskEdges"
        least={0}
        initial={0}
      />
      <Flow />
    </>
  );
}

export const ease: Hand = {
  name: "ease",
  title: "Ease",
  icon: "hand-ease",
  how: "Take back a part of what the open pass did",
  inTray: true,
  brush: () => true,
  still: true,
  again: other,
  Values,
  *gesture(first) {
    const { key, path } = yield* stroke(first);
    const { openPass, passes, gesture, say } = useBench.getState();
    if (!openPass) {
      endTrace(key);
      return say("Open the pass that you want to ease first.");
    }
    const { radius: radius_px, softness, flow, reveal, maskEdges: edges, easeSet } = useHand.getState();
    const whole_set = easeSet && !!passes.find((p) => p.id === openPass)?.bound;
    gesture(
      { op: "paint_mask", pass_id: openPass, stroke: { path, radius_px, softness, flow, reveal, edges }, whole_set },
      (_, painted) => seen(key, painted),
    );
  },
};
