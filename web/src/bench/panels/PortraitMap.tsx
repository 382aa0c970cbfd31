/** The portrait itself, small: its zones, what was touched and what is open, and the part that the bench shows. */
import { memo, useMemo, useRef } from "react";
import { useSettled } from "../../ui/useSettled";
import { around, forthOf } from "../canvas/frame";
import { seen } from "../canvas/viewport";
import { useBenchParts } from "../state/bench";
import { useView } from "../state/view";
import type { MapZone } from "./mapZones";

/** The small picture follows when the hand rests, so that it never delays the large one. */
const REFRESH_MS = 1500;
const [WIDE, TALL] = [172, 204];
/** How much around the face is shown, in parts of it. */
const BESIDE = 0.3;
/** From so many pixels on, a press is a drag. */
const DRAG = 4;

interface Props {
  zones: readonly MapZone[];
  /** The face in hand, in pixels of the original; null: the whole picture. */
  box: readonly number[] | null;
}

export const PortraitMap = memo(function PortraitMap({ zones, box }: Props) {
  const { portrait, revision } = useBenchParts("portrait", "revision");
  const shown = useSettled(revision, REFRESH_MS);
  const { view, screen, picture, centreFramed, toggleFit } = useView();
  const frame = view.frame;
  const press = useRef<{ x: number; y: number; dragged: boolean } | null>(null);
  const [x0, y0, width, height] = useMemo(() => {
    if (!box) return [0, 0, picture.width, picture.height];
    const [bx = 0, by = 0, bw = 0, bh = 0] = box;
    const [l, t, r, b] = around(frame, [bx, by, bx + bw, by + bh]);
    const [pad, high] = [BESIDE * (r - l), BESIDE * (b - t)];
    const [left, top] = [Math.max(0, l - pad), Math.max(0, t - high)];
    const [right, bottom] = [Math.min(picture.width, r + pad), Math.min(picture.height, b + 0.7 * high)];
    // The picture's size may be known a moment later than its faces.
    return [left, top, Math.max(1, right - left), Math.max(1, bottom - top)];
  }, [box, frame, picture.width, picture.height]);
  const drawn = useMemo(
    () =>
      new Map(
        zones.map((z) => [
          z.zone,
          z.place.outlines.map((line) => `M${line.map(([x = 0, y = 0]) => forthOf(frame, x, y).map(Math.round).join(" ")).join("L")}Z`).join(""),
        ]),
      ),
    [zones, frame],
  );
  if (!portrait) return null;
  const scale = Math.min(WIDE / width, TALL / height);
  const part = seen(view, picture, screen);
  const placeOf = (event: React.PointerEvent): [number, number] => {
    const bounds = event.currentTarget.getBoundingClientRect();
    // A narrow column shows it smaller.
    const shownAt = bounds.width / width;
    return [x0 + (event.clientX - bounds.left) / shownAt, y0 + (event.clientY - bounds.top) / shownAt];
  };
  const middle = (z: MapZone) => {
    const [l = 0, t = 0, r = 0, b = 0] = z.place.rect;
    return forthOf(frame, (l + r) / 2, (t + b) / 2);
  };
  return (
    <svg
      className="mg-map"
      role="group"
      aria-label="Zones of the face"
      width={width * scale}
      height={height * scale}
      viewBox={`${x0} ${y0} ${width} ${height}`}
      onPointerDown={(e) => {
        if (e.button === 0) press.current = { x: e.clientX, y: e.clientY, dragged: false };
      }}
      onPointerMove={(e) => {
        const begun = press.current;
        if (!begun) return;
        if (!begun.dragged && Math.hypot(e.clientX - begun.x, e.clientY - begun.y) < DRAG) return;
        if (!begun.dragged) e.currentTarget.setPointerCapture(e.pointerId);
        begun.dragged = true;
        centreFramed(...placeOf(e));
      }}
      onPointerUp={(e) => {
        // A press on a zone is its own click.
        if (press.current && !press.current.dragged && !(e.target as Element).closest("[role=button]")) centreFramed(...placeOf(e));
        press.current = null;
      }}
      onPointerCancel={() => (press.current = null)}
      onDoubleClick={() => toggleFit(screen.width / 2, screen.height / 2)}
    >
      <image href={`/api/portraits/${portrait.id}/thumbnail?side=after&revision=${shown}`} width={picture.width} height={picture.height} preserveAspectRatio="none" />
      {zones.map((z) => (
        <path
          key={z.zone}
          d={drawn.get(z.zone)}
          className={`mg-zone mg-zone-drawn ${z.className}`}
          style={{ fillOpacity: 0.5 * z.filled }}
          role="button"
          tabIndex={0}
          aria-label={z.words}
          onClick={z.go}
          onKeyDown={(e) => e.key === "Enter" && z.go()}
        >
          <title>{z.words}</title>
        </path>
      ))}
      {zones.map((z) => {
        if (!z.marks && !z.seen) return null;
        const [x, y] = middle(z);
        return (
          <g key={z.zone} className="mg-zone-label" aria-hidden="true" transform={`translate(${x} ${y}) scale(${1 / scale})`}>
            {z.marks > 0 && <text className="mg-zone-marks">{z.marks}</text>}
            {z.seen && <path className="mg-zone-tick" d={`M${z.marks ? 5 : -3.5} 0 l2.4 2.4 l4.6 -5`} />}
          </g>
        );
      })}
      <rect className="mg-map-view" x={part.x0} y={part.y0} width={part.x1 - part.x0} height={part.y1 - part.y0} />
    </svg>
  );
});
