/** A colour pressed on in the picture and dragged: it changes there and in all alike places. */
import { client, unwrap, type ApiError, type Operation } from "../../api/client";
import { useBench } from "../state/bench";
import type { Painter } from "./Painter";

/** Screen pixels of a drag for the whole of a setting. */
const FULL_PX = 200;
const MOST_LIGHT = 20;

interface Pressed {
  at: readonly [number, number];
  lab: number[] | null;
  moved: readonly [number, number];
}

let pressed: Pressed | null = null;

/** What a drag of (`dx`, `dy`) screen pixels says: to the left nearer to the skin, up lighter. */
export function valuesOf(dx: number, dy: number): { towards: number; light: number } {
  const clamp = (v: number, most: number) => Math.max(-most, Math.min(most, v));
  return {
    towards: Math.round(clamp((-dx / FULL_PX) * 100, 100)),
    light: Math.round(2 * clamp((-dy / FULL_PX) * MOST_LIGHT, MOST_LIGHT)) / 2,
  };
}

function operation({ lab, moved }: Pressed): Operation | null {
  const { towards, light } = valuesOf(...moved);
  if (!lab || (!towards && !light)) return null;
  const [from_l = 60, from_a = 20, from_b = 18] = lab;
  return { op: "add_pass", kind: "one_colour", settings: { from_l, from_a, from_b, towards, light } };
}

export async function press(at: readonly [number, number], painter: Painter | null) {
  const id = useBench.getState().portrait?.id;
  if (!id) return;
  const own: Pressed = { at, lab: null, moved: [0, 0] };
  pressed = own;
  try {
    const { lab } = await unwrap(
      client.GET("/api/portraits/{portrait_id}/sample", {
        params: { path: { portrait_id: id }, query: { x: at[0], y: at[1] } },
      }),
    );
    own.lab = lab;
    if (pressed === own) dragTo(own.moved, painter);
  } catch (error) {
    useBench.setState({ problem: (error as ApiError).message });
  }
}

export function dragTo(moved: readonly [number, number], painter: Painter | null) {
  if (!pressed) return;
  pressed.moved = moved;
  const op = operation(pressed);
  if (op) painter?.showDraft([op], null);
  else painter?.endDraft();
}

/** Let go: the change becomes a pass. */
export function release(painter: Painter | null) {
  const op = pressed && operation(pressed);
  pressed = null;
  if (op) useBench.getState().gesture(op, (outcome) => !outcome && painter?.endDraft());
  else painter?.endDraft();
}

export function forget(painter: Painter | null) {
  pressed = null;
  painter?.endDraft();
}
