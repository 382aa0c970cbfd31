/** Marks over the picture: a ring says what becomes of each; a click on it changes that. */
import { useFaces, type Decision, type Mark } from "../state/faces";
import { visibleMarks } from "../state/marks";
import { scaleAt, toScreen, type View } from "./viewport";

const NEXT: Record<Decision, Decision> = { clear: "keep", keep: "ask", ask: "clear" };
const WORDS: Record<Decision, string> = { clear: "clear", keep: "keep", ask: "ask" };
const LEAST_RING = 6;

function Ring({ mark, view, chosen }: { mark: Mark; view: View; chosen: boolean }) {
  const { decide } = useFaces();
  const [x, y] = toScreen(view, mark.x, mark.y);
  const r = Math.max(LEAST_RING, mark.reach * scaleAt(view, mark.x, mark.y) + 2);
  return (
    <g
      className={`mg-mark mg-mark-as-${mark.decision} ${chosen ? "mg-mark-chosen" : ""} ${mark.cleared ? "mg-mark-cleared" : ""}`}
      role="button"
      aria-label={`${mark.kind} mark, ${WORDS[mark.decision]}`}
      onPointerDown={(e) => {
        e.stopPropagation();
        if (e.button === 0) decide([mark], NEXT[mark.decision]);
      }}
    >
      <circle cx={x} cy={y} r={r} className="mg-mark-under" />
      <circle cx={x} cy={y} r={r} className="mg-mark-ring" />
      {mark.decision === "keep" && <circle cx={x} cy={y} r={r - 3.5} className="mg-mark-ring" />}
      {mark.decision === "ask" && (
        <text className="mg-mark-text" x={x + r * 0.72 + 2} y={y - r * 0.72}>
          ?
        </text>
      )}
    </g>
  );
}

export function MarksLayer({ view }: { view: View }) {
  const { analysis, face, sensitivity, marksShown, selected } = useFaces();
  if (!marksShown || !analysis) return null;
  return (
    <g>
      {visibleMarks(analysis.marks, sensitivity, face).map((m) => (
        <Ring key={m.id} mark={m} view={view} chosen={selected.includes(m.id)} />
      ))}
    </g>
  );
}
