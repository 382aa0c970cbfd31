import { Button } from "react-bootstrap";
import type { Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useBench } from "../state/bench";
import { useFaces } from "../state/faces";
import { millimetres } from "../state/marks";
import { radiusOf } from "../state/model";
import { useView } from "../state/view";

/** The touches of a pass, the newest first; a click picks one and brings it into view. */
export function TouchList({ pass }: { pass: Pass }) {
  const { picked, pick, gesture } = useBench();
  const pxPerMm = useFaces((s) => s.analysis?.faces[s.face]?.px_per_mm);
  if (pass.touches.length === 0)
    return <p className="mg-hint">Click a spot in the picture, or drag along it.</p>;
  const show = (id: string) => {
    const touch = pass.touches.find((t) => t.id === id)!;
    pick(id);
    const { view, screen, centre } = useView.getState();
    const [x, y] = touch.path[0] as [number, number];
    const [px, py] = [(x - view.x) * view.scale, (y - view.y) * view.scale];
    if (px < 0 || py < 0 || px > screen.width || py > screen.height) centre(x, y);
  };
  return (
    <ol className="mg-touches" aria-label={`Touches of ${pass.name}`}>
      {[...pass.touches].reverse().map((touch, n) => {
        const number = pass.touches.length - n;
        return (
          <li key={touch.id} className={touch.id === picked ? "mg-touch-picked" : ""}>
            <button
              type="button"
              aria-pressed={touch.id === picked}
              onClick={() => (touch.id === picked ? pick(null) : show(touch.id))}
            >
              <Icon name={touch.path.length > 1 ? "bezier2" : "circle"} />
              {touch.path.length > 1 ? "Stroke" : "Spot"} {number}
              <small title={`${radiusOf(touch)} px`}>
                {pxPerMm ? `⌀ ${millimetres(2 * radiusOf(touch), pxPerMm)}` : `${radiusOf(touch)} px`}
              </small>
            </button>
            <Button
              variant="quiet"
              aria-label={`Delete touch ${number}`}
              onClick={() => gesture({ op: "remove_touch", id: touch.id })}
            >
              <Icon name="x" />
            </Button>
          </li>
        );
      })}
    </ol>
  );
}
