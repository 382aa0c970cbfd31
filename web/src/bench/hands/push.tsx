/** Nudge: pushes, widens, narrows, turns, smooths or brings back what lies under the brush, live. */
import { Form } from "react-bootstrap";
import type { Operation, Point } from "../../api/client";
import { Slider } from "../../ui/Slider";
import { passFor } from "../state/bands";
import { useHand, type ShapeAct } from "../state/hand";
import { beginTrace, changeTrace, endTrace } from "./drawn";
import { apart, rounded, type Hand } from "./hand";
import { save } from "./stroke";
import { HoldFeatures, Size } from "./values";

const ACTS: [ShapeAct, string][] = [
  ["push", "Push"],
  ["widen", "Widen"],
  ["narrow", "Narrow"],
  ["turn_right", "Turn right"],
  ["turn_left", "Turn left"],
  ["smooth", "Smooth"],
  ["bring_back", "Bring back"],
];
/** Points of a stroke closer than this part of the radius add nothing. */
const SPACING = 0.08;

function strokeOf(path: readonly Point[], pressure: readonly number[]): Operation {
  const { radius, shapeAct: act, shapeSoft: softness, shapeAmount: amount, holdFeatures: hold_features } = useHand.getState();
  return {
    op: "add_touch",
    kind: "nudge",
    pass_id: passFor("nudge"),
    touch: {
      path: rounded(path),
      values: { act, radius_px: radius, softness, amount, hold_features },
      pressure: pressure.length === path.length ? [...pressure] : [],
    },
  };
}

/** A pen's pressure to three digits; a pen that tells none is pressed in full. */
function forceOf(pressure: number | null): number {
  return Math.round(1000 * Math.min(Math.max(pressure ?? 1, 0), 1)) / 1000;
}

function Values() {
  const { shapeAct, shapeSoft, shapeAmount, set } = useHand();
  return (
    <>
      <Form.Select
        size="sm"
        className="mg-form-choice"
        aria-label="Stroke does"
        value={shapeAct}
        onChange={(e) => set({ shapeAct: e.target.value as ShapeAct })}
      >
        {ACTS.map(([act, title]) => (
          <option key={act} value={act}>
            {title}
          </option>
        ))}
      </Form.Select>
      <Size />
      <Slider
        label="Softness"
        title="The part of the brush over which it fades"
        unit="%"
        min={10}
        max={100}
        initial={70}
        value={shapeSoft}
        onInput={(shapeSoft) => set({ shapeSoft })}
      />
      <Slider
        label="Amount"
        title="How much of the brush's way, widening or turn is made"
        unit="%"
        min={1}
        max={100}
        initial={100}
        value={shapeAmount}
        onInput={(shapeAmount) => set({ shapeAmount })}
      />
      <HoldFeatures />
    </>
  );
}

export const push: Hand = {
  name: "push",
  title: "Nudge",
  icon: "hand-push",
  how: "Push along the stroke; what is held stays in its place",
  brush: () => true,
  still: true,
  Values,
  *gesture(first, work) {
    const { radius, shapeAct, pressure: counts } = useHand.getState();
    const path: Point[] = [first.at];
    // How hard a pen is pressed along the way; a mouse presses alike everywhere.
    const pressed = counts && first.pressure !== null ? [forceOf(first.pressure)] : [];
    const key = beginTrace(path, 0.5);
    let saved = false;
    try {
      for (let now = first; !now.last; ) {
        now = yield;
        if (apart(path.at(-1)!, now.at) < Math.max(SPACING * radius, 0.7) && !now.last) continue;
        if (apart(path.at(-1)!, now.at) > 0) {
          path.push(now.at);
          // At the end a pen is lifted: what it was before counts.
          if (pressed.length > 0) pressed.push(now.last ? pressed.at(-1)! : forceOf(now.pressure));
        }
        changeTrace(key, { path: [...path] });
        if (!now.last && path.length > 1) work.painter?.showDraft([strokeOf(path, pressed)], null);
      }
      if (shapeAct === "push" && path.length < 2) return;
      saved = true;
      save(strokeOf(path, pressed), key);
    } finally {
      if (!saved) {
        endTrace(key);
        work.painter?.endDraft();
      }
    }
  },
};
