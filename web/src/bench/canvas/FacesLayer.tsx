/** Boxes, irises and lines of the mesh, while faces are corrected by hand. */
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";
import { scaleAt, toScreen, type View } from "./viewport";

export function FacesLayer({ view }: { view: View }) {
  const faces = useFaces((s) => s.analysis?.faces);
  const mode = useHand((s) => s.mode);
  if (!faces || (mode !== "face" && mode !== "iris" && mode !== "nudge")) return null;
  return (
    <g className="mg-mesh">
      {faces.map((f) => {
        const [x = 0, y = 0, w = 0, h = 0] = f.box;
        const corners = [[x, y], [x + w, y], [x + w, y + h], [x, y + h]];
        return (
          <g key={f.number} role="img" aria-label={`Lines of ${f.title}`}>
            {mode === "face" && (
              <polygon points={corners.map(([cx, cy]) => toScreen(view, cx!, cy!).join(",")).join(" ")} />
            )}
            {mode === "iris" &&
              f.irises.map(([ix = 0, iy = 0, r = 0], n) => {
                const [cx, cy] = toScreen(view, ix, iy);
                return <circle key={n} cx={cx} cy={cy} r={r * scaleAt(view, ix, iy)} />;
              })}
            {mode === "nudge" &&
              f.outlines.map((line, n) => (
                <polygon
                  key={n}
                  points={line.map((p) => toScreen(view, p[0]!, p[1]!).join(",")).join(" ")}
                />
              ))}
          </g>
        );
      })}
    </g>
  );
}
