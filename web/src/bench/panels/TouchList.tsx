import { memo } from "react";
import { Button } from "react-bootstrap";
import type { Pass, Touch } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { toScreen } from "../canvas/viewport";
import { hint } from "../keys";
import { useBench } from "../state/bench";
import { useFaces } from "../state/faces";
import { millimetres } from "../state/marks";
import { isOutline, radiusOf } from "../state/model";
import { useView } from "../state/view";

const WORDS: Record<string, [string, string]> = {
  heal: ["Spot", "Stroke"],
  clone: ["Copy", "Stroke"],
  patch: ["Patch", "Patch"],
  fill: ["Fill", "Fill"],
};

/** What can be done to all picked touches at once. */
function Several({ ids, touches }: { ids: string[]; touches: Touch[] }) {
  const gesture = useBench((s) => s.gesture);
  const on = touches.find((t) => t.id === ids[0])?.enabled ?? true;
  return (
    <div className="mg-several" role="group" aria-label="Picked touches">
      <span>{ids.length} picked</span>
      <Button variant="quiet" title={hint("touchSwitch")} onClick={() => gesture({ op: "change_touches", ids, enabled: !on })}>
        {on ? "Off" : "On"}
      </Button>
      <Button variant="quiet" title={hint("duplicate")} onClick={() => gesture({ op: "duplicate_touches", ids })}>
        Duplicate
      </Button>
      <Button variant="quiet" title={hint("remove")} onClick={() => gesture({ op: "remove_touches", ids })}>
        Delete
      </Button>
    </div>
  );
}

/** Pick a touch and bring it into view. */
function show(touch: Touch) {
  useBench.getState().pick(touch.id);
  const { view, screen, centre } = useView.getState();
  const [x, y] = touch.path[0] as [number, number];
  const [px, py] = toScreen(view, x, y);
  if (px < 0 || py < 0 || px > screen.width || py > screen.height) centre(x, y);
}

function click(touch: Touch, event: React.MouseEvent) {
  const { passes, picked, also, pick, pickAlso, pickAll } = useBench.getState();
  if (event.ctrlKey || event.metaKey) return pickAlso(touch.id);
  if (event.shiftKey && picked) {
    const ids = passes.find((p) => p.touches.some((t) => t.id === touch.id))?.touches.map((t) => t.id) ?? [];
    const [a, b] = [ids.indexOf(picked), ids.indexOf(touch.id)].sort((p, q) => p - q) as [number, number];
    return pickAll([picked, ...ids.slice(Math.max(a, 0), b + 1).filter((i) => i !== picked)]);
  }
  if (touch.id === picked && also.length === 0) pick(null);
  else show(touch);
}

interface RowProps {
  touch: Touch;
  number: number;
  word: string;
  inHand: boolean;
  pxPerMm: number | undefined;
}

/** One touch; drawn again only when it changes, for passes hold hundreds. */
const Row = memo(function Row({ touch, number, word, inHand, pxPerMm }: RowProps) {
  const gesture = useBench((s) => s.gesture);
  const long = touch.path.length > 1 && !isOutline(touch);
  return (
    <li className={`${inHand ? "mg-touch-picked" : ""} ${touch.enabled ? "" : "mg-touch-off"}`}>
      <button type="button" aria-pressed={inHand} onClick={(e) => click(touch, e)}>
        <Icon name={isOutline(touch) ? "pentagon" : long ? "bezier2" : "circle"} />
        {word} {number}
        <small title={`${radiusOf(touch)} px`}>
          {pxPerMm ? `⌀ ${millimetres(2 * radiusOf(touch), pxPerMm)}` : `${radiusOf(touch)} px`}
        </small>
      </button>
      <Button
        variant="quiet"
        aria-label={`Touch ${number} ${touch.enabled ? "off" : "on"}`}
        title={touch.enabled ? "Switch this touch off" : "Switch this touch on"}
        onClick={() => gesture({ op: "change_touch", id: touch.id, enabled: !touch.enabled, new_source: false })}
      >
        <Icon name={touch.enabled ? "eye" : "eye-slash"} />
      </Button>
      <Button
        variant="quiet"
        aria-label={`Delete touch ${number}`}
        onClick={() => gesture({ op: "remove_touch", id: touch.id })}
      >
        <Icon name="x" />
      </Button>
    </li>
  );
});

/** The touches of a pass, the newest first; a click picks one and brings it into view. */
export function TouchList({ pass }: { pass: Pass }) {
  const picked = useBench((s) => s.picked);
  const also = useBench((s) => s.also);
  const pxPerMm = useFaces((s) => s.analysis?.faces[s.face]?.px_per_mm);
  if (pass.touches.length === 0)
    return <p className="mg-hint">Click a spot in the picture, or drag along it.</p>;
  const held = new Set(picked ? [picked, ...also] : also);
  const own = pass.touches.filter((t) => held.has(t.id)).map((t) => t.id);
  const words = WORDS[pass.kind] ?? ["Touch", "Stroke"];
  return (
    <>
      {own.length > 1 && <Several ids={own} touches={pass.touches} />}
      <ol className="mg-touches" aria-label={`Touches of ${pass.name}`}>
        {[...pass.touches].reverse().map((touch, n) => (
          <Row
            key={touch.id}
            touch={touch}
            number={pass.touches.length - n}
            word={words[touch.path.length > 1 && !isOutline(touch) ? 1 : 0]}
            inHand={held.has(touch.id)}
            pxPerMm={pxPerMm}
          />
        ))}
      </ol>
    </>
  );
}
