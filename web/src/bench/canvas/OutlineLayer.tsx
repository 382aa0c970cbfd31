/** The outline under way, its nodes to drag, and what fills must not take from. */
import { useHand } from "../state/hand";
import { bySteps, cornersOf, useOutline } from "../state/outline";
import { toScreen, type View } from "./viewport";

interface Props {
  view: View;
  pointer: readonly [number, number] | null;
  onNode: (index: number, event: React.PointerEvent) => void;
}

export function OutlineLayer({ view, pointer, onNode }: Props) {
  const { form, nodes, closed, shift, spares } = useOutline();
  const mode = useHand((s) => s.mode);
  const line = (points: readonly (readonly number[])[], dx = 0, dy = 0) =>
    points.map((p) => toScreen(view, p[0]! + dx, p[1]! + dy).join(",")).join(" ");
  const corners = nodes.length ? cornersOf(form, nodes) : [];
  return (
    <g>
      {mode === "fill" &&
        spares.map((s, n) => <polygon key={n} className="mg-spared" points={line(s)} role="img" aria-label="Spared" />)}
      {closed && (
        <polygon className="mg-drawn mg-outline" points={line(corners)} role="img" aria-label="Outline" />
      )}
      {closed && shift && <polygon className="mg-drawn mg-outline-source" points={line(corners, ...shift)} />}
      {!closed && nodes.length > 0 && (
        <polyline className="mg-drawn" points={line(pointer && bySteps(form) ? [...nodes, pointer] : nodes)} />
      )}
      {bySteps(form) &&
        nodes.map((p, n) => {
          const [x, y] = toScreen(view, p[0], p[1]);
          return (
            <circle
              key={n}
              className="mg-knob"
              role="button"
              aria-label={n === 0 && !closed ? "Close the outline" : `Node ${n + 1}`}
              cx={x}
              cy={y}
              r={n === 0 && !closed ? 7 : 5}
              onPointerDown={(e) => onNode(n, e)}
            />
          );
        })}
    </g>
  );
}
