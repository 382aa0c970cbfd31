/** What the brush draws over the picture: its circle, traces, and where it takes from. */
import type { Point } from "../../api/client";
import { useDrawn } from "../hands/drawn";
import { handNow } from "../hands";
import { useCompare } from "../state/compare";
import { offsetFor, useHand } from "../state/hand";
import { useView } from "../state/view";
import { scaleAt, toPicture, toScreen } from "./viewport";

/** The brush under the pointer. */
export function BrushCircle() {
  const { pointer, held } = useDrawn();
  const { view, screen } = useView();
  const { radius, softness, panning } = useHand();
  const comparing = useCompare((s) => s.held !== null);
  if (!pointer || held || panning || comparing || !handNow().brush?.()) return null;
  const [x, y] = pointer;
  if (x < 0 || y < 0 || x > screen.width || y > screen.height) return null;
  const r = radius * scaleAt(view, ...toPicture(view, x, y));
  return (
    <g className="mg-brush" pointerEvents="none">
      <circle className="mg-brush-dark" cx={x} cy={y} r={r} />
      <circle className="mg-brush-light" cx={x} cy={y} r={r} />
      {softness > 0 && <circle className="mg-brush-soft" cx={x} cy={y} r={r * (1 - softness / 100)} />}
    </g>
  );
}

/** Strokes under way, and finished ones that wait for their pixels. */
export function Traces() {
  const traces = useDrawn((s) => s.traces);
  const view = useView((s) => s.view);
  return traces.map(({ key, path, radius }) => {
    const points = path.map((p) => toScreen(view, p[0], p[1]).join(","));
    return (
      <polyline
        key={key}
        className="mg-under-way"
        points={(points.length === 1 ? [points[0], points[0]] : points).join(" ")}
        strokeWidth={2 * radius * scaleAt(view, ...path[0]!)}
      />
    );
  });
}

/** Where the next stroke, or the one under way, takes from. */
export function SourceCross() {
  const view = useView((s) => s.view);
  const { chosen, aligned, radius } = useHand();
  const { pointer, traces } = useDrawn();
  if (!chosen || !handNow().takes) return null;
  const under = traces.at(-1)?.path;
  const start: Point | null = under?.[0] ?? null;
  const at: Point | null = under?.at(-1) ?? (pointer ? toPicture(view, pointer[0], pointer[1]) : null);
  const from = start ?? at;
  const offset = from && offsetFor(chosen, aligned, from[0], from[1]);
  const moving = at && offset && (start !== null || (aligned && chosen.offset !== null));
  const [x, y] = moving ? toScreen(view, at[0] + offset[0], at[1] + offset[1]) : toScreen(view, chosen.x, chosen.y);
  return (
    <g className="mg-source-cross" pointerEvents="none" role="img" aria-label="Chosen source">
      <circle cx={x} cy={y} r={radius * scaleAt(view, chosen.x, chosen.y)} />
      <path d={`M${x - 6} ${y} h12 M${x} ${y - 6} v12`} />
    </g>
  );
}

/** What the gesture under way draws that doesn't paint. */
export function UnderWay() {
  const path = useDrawn((s) => s.path);
  const Drawing = handNow().Drawing;
  return path && Drawing ? <Drawing path={path} /> : null;
}
