/** Lines that matter while one works in Shape: those kept straight, strands, the outline of the hair. */
import { useBenchParts } from "../state/bench";
import { useHand } from "../state/hand";
import { usePulling } from "../state/pulling";
import { useStrands } from "../state/strands";
import { toScreen, type View } from "./viewport";

export function LinesLayer({ view }: { view: View }) {
  const { passes } = useBenchParts("passes");
  const inShape = usePulling((s) => s.inShape);
  const shown = useStrands((s) => s.shown);
  const mode = useHand((s) => s.mode);
  if (!inShape) return null;
  const of = (kind: string) => passes.filter((p) => p.kind === kind && p.enabled).flatMap((p) => p.touches);
  const points = (path: readonly (readonly number[])[]) =>
    path.map((p) => toScreen(view, p[0]!, p[1]!).join(",")).join(" ");
  // The picture itself is looked at, unless one works on strands.
  const strands = shown && mode === "strands" ? of("strands") : [];
  return (
    <>
      <g className="mg-lines" pointerEvents="none" role="img" aria-label="Lines kept straight">
        {of("straight_lines").map((t) => (
          <polyline key={t.id} points={points(t.path)} />
        ))}
      </g>
      <g className="mg-strands" pointerEvents="none" role="img" aria-label="Strands">
        {strands.map((t) => (
          <polyline key={t.id} className={t.enabled ? "mg-cleared" : undefined} points={points(t.path)} />
        ))}
      </g>
      <g className="mg-hairline" pointerEvents="none" role="img" aria-label="Hair outline">
        {of("hair_outline").map((t) => (
          <polygon key={t.id} points={points(t.path)} />
        ))}
      </g>
    </>
  );
}
