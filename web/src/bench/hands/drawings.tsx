/** What gestures under way look like over the picture. */
import type { Point } from "../../api/client";
import { useView } from "../state/view";
import { toScreen } from "../canvas/viewport";

function useScreen(path: readonly Point[]): Point[] {
  const view = useView((s) => s.view);
  return path.map((p) => toScreen(view, p[0], p[1]));
}

export function Line({ path }: { path: readonly Point[] }) {
  const points = useScreen(path);
  const [a, b] = [points[0]!, points.at(-1)!];
  return <line className="mg-drawn" x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} />;
}

/** A box of the original: in a turned picture it is seen turned. */
export function Box({ path }: { path: readonly Point[] }) {
  const [[x0, y0], [x1, y1]] = [path[0]!, path.at(-1)!];
  const points = useScreen([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]);
  return <polygon className="mg-drawn" points={points.map((p) => p.join(",")).join(" ")} />;
}

export function Ring({ path }: { path: readonly Point[] }) {
  const points = useScreen(path);
  const [a, b] = [points[0]!, points.at(-1)!];
  return <circle className="mg-drawn" cx={a[0]} cy={a[1]} r={Math.hypot(b[0] - a[0], b[1] - a[1])} />;
}

export function Loop({ path }: { path: readonly Point[] }) {
  const points = useScreen(path);
  return <polygon className="mg-drawn" points={points.map((p) => p.join(",")).join(" ")} />;
}
