/** Press: a colour pressed on in the picture and dragged changes there and in all alike places. */
import type { ApiError, Operation, Point } from "../../api/client";
import { useBench } from "../state/bench";
import type { Hand, Work } from "./hand";
import { colourAt } from "./pick";

/** Screen pixels of a drag for the whole of a setting. */
const FULL_PX = 200;
const MOST_LIGHT = 20;

/** What a drag of (`dx`, `dy`) screen pixels says: to the left nearer to the skin, up lighter. */
export function valuesOf(dx: number, dy: number): { towards: number; light: number } {
  const clamp = (v: number, most: number) => Math.max(-most, Math.min(most, v));
  return {
    towards: Math.round(clamp((-dx / FULL_PX) * 100, 100)),
    light: Math.round(2 * clamp((-dy / FULL_PX) * MOST_LIGHT, MOST_LIGHT)) / 2,
  };
}

function operation(lab: readonly number[] | null, moved: Point): Operation | null {
  const { towards, light } = valuesOf(...moved);
  if (!lab || (!towards && !light)) return null;
  const [from_l = 60, from_a = 20, from_b = 18] = lab;
  return { op: "add_pass", kind: "one_colour", settings: { from_l, from_a, from_b, towards, light } };
}

function show(op: Operation | null, { painter }: Work) {
  if (op) painter?.showDraft([op], null);
  else painter?.endDraft();
}

export const press: Hand = {
  name: "press",
  title: "Press",
  icon: "hand-press",
  how: "Press on a colour and drag: left nearer to the skin, up lighter",
  still: true,
  *gesture(first, work) {
    let lab: readonly number[] | null = null;
    let moved: Point = [0, 0];
    let over = false;
    let saved = false;
    colourAt(first.at).then(
      (found) => {
        lab = found;
        if (!over) show(operation(lab, moved), work);
      },
      (error: unknown) => useBench.setState({ problem: (error as ApiError).message }),
    );
    try {
      for (let now = first; !now.last; ) {
        now = yield;
        if (now.last) break;
        moved = [now.screen[0] - first.screen[0], now.screen[1] - first.screen[1]];
        show(operation(lab, moved), work);
      }
      const op = operation(lab, moved);
      saved = op !== null;
      // The change becomes a pass.
      if (op) useBench.getState().gesture(op, (outcome) => !outcome && work.painter?.endDraft());
    } finally {
      over = true;
      if (!saved) work.painter?.endDraft();
    }
  },
};
