/** An outline that is being drawn or waits to be used: its nodes, its form, and what it becomes. */
import { create } from "zustand";
import type { Point } from "../../api/client";

export type { Point };
export type Form = "freehand" | "polygon" | "curve" | "ellipse";
export const FORMS: Form[] = ["freehand", "polygon", "curve", "ellipse"];

/** Points per span of a curve, and around an ellipse. */
const SPAN_STEPS = 10;
const ELLIPSE_STEPS = 64;
/** A freehand line is kept to this part of its size. */
const SIMPLIFY = 0.003;

/** A smooth closed curve through nodes: centripetal enough for nodes set by hand (Catmull-Rom). */
export function curveThrough(nodes: readonly Point[]): Point[] {
  const n = nodes.length;
  if (n < 3) return [...nodes];
  const out: Point[] = [];
  for (let i = 0; i < n; i++) {
    const [a, b, c, d] = [nodes[(i + n - 1) % n]!, nodes[i]!, nodes[(i + 1) % n]!, nodes[(i + 2) % n]!];
    for (let s = 0; s < SPAN_STEPS; s++) {
      const t = s / SPAN_STEPS;
      const at = (k: 0 | 1) =>
        0.5 *
        (2 * b[k] +
          (c[k] - a[k]) * t +
          (2 * a[k] - 5 * b[k] + 4 * c[k] - d[k]) * t * t +
          (3 * b[k] - a[k] - 3 * c[k] + d[k]) * t * t * t);
      out.push([at(0), at(1)]);
    }
  }
  return out;
}

/** The ellipse inside the box between two corners. */
export function ellipseIn(a: Point, b: Point): Point[] {
  const [cx, cy, rx, ry] = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, Math.abs(b[0] - a[0]) / 2, Math.abs(b[1] - a[1]) / 2];
  return Array.from({ length: ELLIPSE_STEPS }, (_, i) => {
    const t = (2 * Math.PI * i) / ELLIPSE_STEPS;
    return [cx + rx * Math.cos(t), cy + ry * Math.sin(t)];
  });
}

/** A line without the points that hardly change it (Douglas, Peucker 1973). */
export function simplified(points: readonly Point[], tolerance: number): Point[] {
  if (points.length < 3) return [...points];
  const [a, b] = [points[0]!, points.at(-1)!];
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const length = Math.hypot(dx, dy);
  let worst = 0;
  let at = 0;
  points.forEach((p, i) => {
    const away = length
      ? Math.abs(dy * (p[0] - a[0]) - dx * (p[1] - a[1])) / length
      : Math.hypot(p[0] - a[0], p[1] - a[1]);
    if (away > worst) [worst, at] = [away, i];
  });
  if (worst <= tolerance) return [a, b];
  return [...simplified(points.slice(0, at + 1), tolerance).slice(0, -1), ...simplified(points.slice(at), tolerance)];
}

/** The corners of an outline of some form through its nodes, rounded to hundredths of a pixel. */
export function cornersOf(form: Form, nodes: readonly Point[]): Point[] {
  let points: Point[];
  if (form === "curve") points = curveThrough(nodes);
  else if (form === "ellipse") points = nodes.length >= 2 ? ellipseIn(nodes[0]!, nodes.at(-1)!) : [];
  else if (form === "freehand") {
    const size = Math.max(...extent(nodes));
    points = simplified(nodes, Math.max(size * SIMPLIFY, 0.25));
  } else points = [...nodes];
  return points.map(([x, y]) => [Math.round(x * 100) / 100, Math.round(y * 100) / 100]);
}

function extent(nodes: readonly Point[]): [number, number] {
  const xs = nodes.map((p) => p[0]);
  const ys = nodes.map((p) => p[1]);
  return [Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys)];
}

/** Whether an outline is large enough to mean something, in pixels of the original. */
export function isPlace(corners: readonly Point[]): boolean {
  if (corners.length < 3) return false;
  const [w, h] = extent(corners);
  return w >= 2 && h >= 2;
}

/** Nodes set one by one, rather than drawn in one go. */
export const bySteps = (form: Form) => form === "polygon" || form === "curve";

interface OutlineState {
  form: Form;
  nodes: Point[];
  closed: boolean;
  /** How far a closed outline is dragged just now, pixels of the original. */
  shift: Point | null;
  /** Outlines that the next fills take nothing from. */
  spares: Point[][];
  /** The next outline is one to spare. */
  sparing: boolean;
  set: (part: Partial<Omit<OutlineState, "set" | "clear">>) => void;
  clear: () => void;
}

export const useOutline = create<OutlineState>()((set) => ({
  form: "freehand",
  nodes: [],
  closed: false,
  shift: null,
  spares: [],
  sparing: false,
  set: (part) => set(part),
  clear: () => set({ nodes: [], closed: false }),
}));
