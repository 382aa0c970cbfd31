/** The straight lines that moves keep straight, while one works in Shape. */
import { useBenchParts } from "../state/bench";
import { usePulling } from "../state/pulling";
import { toScreen, type View } from "./viewport";

export function LinesLayer({ view }: { view: View }) {
  const { passes } = useBenchParts("passes");
  const inShape = usePulling((s) => s.inShape);
  if (!inShape) return null;
  const lines = passes.filter((p) => p.kind === "straight_lines" && p.enabled).flatMap((p) => p.touches);
  return (
    <g className="mg-lines" pointerEvents="none" role="img" aria-label="Lines kept straight">
      {lines.map((t) => (
        <polyline key={t.id} points={t.path.map((p) => toScreen(view, p[0]!, p[1]!).join(",")).join(" ")} />
      ))}
    </g>
  );
}
