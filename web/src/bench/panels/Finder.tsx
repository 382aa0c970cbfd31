/** The whole picture, small, with a frame where the bench looks; a click or drag goes there. */
import { memo } from "react";
import { useBenchParts } from "../state/bench";
import { seen } from "../canvas/viewport";
import { useView } from "../state/view";
import { useSettled } from "../../ui/useSettled";

/** The small picture follows when the hand rests, so that it never delays the large one. */
const REFRESH_MS = 1500;
const WIDTH = 148;
const TALLEST = 190;

export const Finder = memo(function Finder() {
  const { portrait, revision } = useBenchParts("portrait", "revision");
  const shown = useSettled(revision, REFRESH_MS);
  const { view, screen, picture, centreFramed, toggleFit } = useView();
  if (!portrait) return null;
  const scale = Math.min(WIDTH / picture.width, TALLEST / picture.height);
  const part = seen(view, picture, screen);
  const go = (event: React.PointerEvent) => {
    if (event.buttons !== 1) return;
    const box = event.currentTarget.getBoundingClientRect();
    centreFramed((event.clientX - box.left) / scale, (event.clientY - box.top) / scale);
  };
  return (
    <div
      className="mg-finder"
      role="img"
      aria-label="Where you are in the picture"
      style={{ width: picture.width * scale, height: picture.height * scale }}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        go(e);
      }}
      onPointerMove={go}
      onDoubleClick={() => toggleFit(screen.width / 2, screen.height / 2)}
    >
      <img
        src={`/api/portraits/${portrait.id}/thumbnail?side=after&revision=${shown}`}
        alt=""
        draggable={false}
      />
      <span
        style={{
          left: part.x0 * scale,
          top: part.y0 * scale,
          width: Math.max(4, (part.x1 - part.x0) * scale),
          height: Math.max(4, (part.y1 - part.y0) * scale),
        }}
      />
    </div>
  );
});
