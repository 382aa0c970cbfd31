/** Fill: what should be behind a place, made from its surroundings. */
import type { Operation, Point } from "../../api/client";
import { passFor } from "../state/bands";
import { useBench } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";
import { useOutline } from "../state/outline";
import type { Hand } from "./hand";
import { outline, takesOutlines } from "./outlining";
import { openAdded, save, stroke } from "./stroke";
import { FormChoice, Size, Strength, Switching } from "./values";

const byOutline = () => useHand.getState().fillBy === "outline" || useOutline.getState().sparing;

function other() {
  const { fillBy, set } = useHand.getState();
  set({ fillBy: fillBy === "brush" ? "outline" : "brush" });
}

function fillOf(path: Point[], by: "brush" | "outline"): Operation {
  const { radius, opacity, anywhere } = useHand.getState();
  return {
    op: "add_touch",
    kind: "fill",
    anywhere,
    pass_id: passFor("fill"),
    touch: {
      path,
      values: { shape: by, radius_px: radius, opacity, seed: 0 },
      source: null,
      spare: useOutline.getState().spares,
    },
  };
}

takesOutlines("fill", {
  take: (path) => {
    const { sparing, spares, set, clear } = useOutline.getState();
    if (sparing) return set({ spares: [...spares, path], sparing: false, nodes: [], closed: false });
    useBench.getState().gesture(fillOf(path, "outline"), (outcome) => {
      if (outcome) clear();
      openAdded(outcome);
    });
  },
});

function Values() {
  const { fillBy, anywhere, set } = useHand();
  const { sparing, spares, set: draw } = useOutline();
  const known = useFaces((s) => s.analysis?.faces[s.face] !== undefined);
  return (
    <>
      <Switching
        label={`Fill by ${fillBy}`}
        title={`By ${fillBy}; click for the other`}
        action="fill"
        icon={fillBy === "brush" ? "hand-brush" : "hand-around"}
        onClick={other}
      >
        {fillBy === "brush" ? "Brush" : "Outline"}
      </Switching>
      <Switching
        active={sparing}
        title="Outline what the next fills take nothing from"
        icon="shield"
        onClick={() => draw({ sparing: !sparing, nodes: [], closed: false })}
      >
        Spare{spares.length > 0 && ` (${spares.length})`}
      </Switching>
      {known && (
        <Switching
          active={!anywhere}
          title={
            anywhere
              ? "Draws from anywhere around; click: only from zones like the place itself"
              : "Draws only from zones like the place itself, and never from marks; click: from anywhere"
          }
          icon="person-bounding-box"
          onClick={() => set({ anywhere: !anywhere })}
        >
          Zones
        </Switching>
      )}
      {spares.length > 0 && (
        <Switching label="Spare nothing" title="Spare nothing" icon="shield-x" onClick={() => draw({ spares: [] })} />
      )}
      {(fillBy === "outline" || sparing) && <FormChoice />}
      {fillBy === "brush" && <Size />}
      <Strength />
    </>
  );
}

export const fill: Hand = {
  name: "fill",
  title: "Fill",
  icon: "hand-fill",
  how: "What should be behind it, made from its surroundings",
  inTray: true,
  brush: () => !byOutline(),
  outlines: byOutline,
  again: other,
  Values,
  *gesture(first, work) {
    if (byOutline()) return yield* outline(first, work);
    const { key, path } = yield* stroke(first);
    save(fillOf(path, "brush"), key);
  },
};
