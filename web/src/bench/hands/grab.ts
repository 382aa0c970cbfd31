/** Taking hold of a touch: moved, resized, its source dragged or turned. */
import type { Operation, Point, Touch } from "../../api/client";
import { useBench } from "../state/bench";
import { extent, radiusOf, turnedTo, union } from "../state/model";
import { scaleAt } from "../canvas/viewport";
import { useView } from "../state/view";
import { useDrawn } from "./drawn";
import type { At, Gesture, Work } from "./hand";

export type Grip = "move" | "size" | "source" | "turn";

export function dragged(touch: Touch, grip: Grip, from: Point, to: Point): Touch {
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  if (grip === "move") return { ...touch, path: touch.path.map(([x, y]) => [x + dx, y + dy]) };
  if (grip === "source") {
    const [sx, sy] = touch.source ?? [0, 0];
    return { ...touch, source: [Math.round(sx + dx), Math.round(sy + dy)] };
  }
  if (grip === "turn")
    return { ...touch, values: { ...touch.values, ...turnedTo(touch, scaleAt(useView.getState().view, ...to), ...to) } };
  const [cx, cy] = touch.path[0]!;
  const radius = Math.min(Math.max(Math.hypot(to[0] - cx, to[1] - cy), 1), 2000);
  return { ...touch, values: { ...touch.values, radius_px: Math.round(radius * 2) / 2 } };
}

export function operationOf(now: Touch, grip: Grip): Operation {
  const base = { op: "change_touch" as const, id: now.id };
  if (grip === "move") return { ...base, path: now.path };
  if (grip === "source") return { ...base, source: now.source };
  const { source_turn, source_size } = now.values;
  if (grip === "turn") return { ...base, values: { source_turn: source_turn!, source_size: source_size! } };
  return { ...base, values: { radius_px: radiusOf(now) } };
}

/** From the press on a grip to the release; the result follows meanwhile. */
export function* grab(grip: Grip, touch: Touch, first: At, { painter }: Work): Gesture {
  let now = touch;
  let saved = false;
  const refused = (outcome: unknown) => void (!outcome && painter?.endDraft());
  try {
    useDrawn.setState({ held: touch });
    for (let at = first; !at.last; ) {
      at = yield;
      if (at.last) break;
      now = dragged(touch, grip, first.at, at.at);
      useDrawn.setState({ held: now });
      painter?.showDraft([operationOf(now, grip)], union(extent(touch), extent(now)));
    }
    saved = JSON.stringify(now) !== JSON.stringify(touch);
    const { also, gesture } = useBench.getState();
    if (saved && grip === "move" && also.length) {
      const [a, b] = [touch.path[0]!, now.path[0]!];
      const shift: Point = [Math.round(b[0] - a[0]), Math.round(b[1] - a[1])];
      gesture({ op: "change_touches", ids: [touch.id, ...also], shift }, refused);
    } else if (saved) gesture(operationOf(now, grip), refused);
  } finally {
    useDrawn.setState({ held: null });
    if (!saved) painter?.endDraft();
  }
}
