/** Touches drawn over the picture: rings and strokes, the picked one with its source on a thread. */
import type { Pass, Touch } from "../../api/client";
import type { Grip } from "../hands/grab";
import { handleReach, isOutline, radiusOf, sourceMiddle } from "../state/model";
import { scaleAt, toScreen, type View } from "./viewport";

interface Props {
  /** Touches can't be taken hold of while the hand paints over them. */
  still: boolean;
  pass: Pass | null;
  view: View;
  picked: Touch | null;
  also: string[];
  shown: boolean;
  near: [number, number] | null;
  onGrab: (grip: Grip, touch: Touch, event: React.PointerEvent) => void;
}

const NEAR_PX = 90;
const DOT = 5;

function outline(touch: Touch, view: View, dx = 0, dy = 0) {
  return touch.path.map((p) => toScreen(view, p[0]! + dx, p[1]! + dy));
}

interface ShapeProps {
  points: [number, number][];
  radius: number;
  className: string;
  closed: boolean;
}

function Shape({ points, radius, className, closed }: ShapeProps) {
  if (points.length === 1)
    return <circle className={className} cx={points[0]![0]} cy={points[0]![1]} r={radius} />;
  const line = points.map((p) => p.join(",")).join(" ");
  if (closed) return <polygon className={className} points={line} />;
  return (
    <g className={`${className} mg-stroke`}>
      <polyline points={line} className="mg-stroke-body" strokeWidth={2 * radius} />
      <polyline points={line} className="mg-stroke-line" />
    </g>
  );
}

function Dot({ touch, view, onGrab }: { touch: Touch; view: View; onGrab: Props["onGrab"] }) {
  const [x, y] = outline(touch, view)[0]!;
  return (
    <circle
      className="mg-dot"
      cx={x}
      cy={y}
      r={DOT}
      data-touch={touch.id}
      onPointerDown={(e) => onGrab("move", touch, e)}
    />
  );
}

/** Where the handle that turns and enlarges a source stands: above it as long as it isn't turned. */
function turnHandle(touch: Touch, view: View) {
  const [x, y] = sourceMiddle(touch);
  const angle = ((Number(touch.values["source_turn"]) - 90) * Math.PI) / 180;
  const reach = handleReach(touch, scaleAt(view, x, y)) * (Number(touch.values["source_size"]) / 100);
  const from = toScreen(view, x, y);
  return { from, to: toScreen(view, x + reach * Math.cos(angle), y + reach * Math.sin(angle)) };
}

function Picked({ touch, view, onGrab }: { touch: Touch; view: View; onGrab: Props["onGrab"] }) {
  const closed = isOutline(touch);
  const radius = closed ? 0 : radiusOf(touch) * scaleAt(view, touch.path[0]![0]!, touch.path[0]![1]!);
  const here = outline(touch, view);
  const [sx, sy] = touch.source ?? [0, 0];
  const there = outline(touch, view, sx, sy);
  const [a, b] = [here[0]!, there[0]!];
  const away = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  const along = (p: [number, number], sign: number): [number, number] => [
    p[0] + (sign * radius * (b[0] - a[0])) / away,
    p[1] + (sign * radius * (b[1] - a[1])) / away,
  ];
  const [t0, t1] = [along(a, 1), along(b, -1)];
  // The knob stands across the thread, so that the two don't cover each other.
  const knob: [number, number] = [
    a[0] - (radius * (b[1] - a[1])) / away,
    a[1] + (radius * (b[0] - a[0])) / away,
  ];
  const handle = touch.source && touch.values["source_turn"] !== undefined ? turnHandle(touch, view) : null;
  return (
    <g className="mg-picked">
      {touch.source && away > 2 * radius && (
        <line className="mg-thread" x1={t0[0]} y1={t0[1]} x2={t1[0]} y2={t1[1]} />
      )}
      <g
        className="mg-grip-move"
        role="button"
        aria-label="Move the touch"
        onPointerDown={(e) => onGrab("move", touch, e)}
      >
        <Shape points={here} radius={radius} className="mg-ring mg-ring-picked" closed={closed} />
      </g>
      {touch.source && (
        <g
          className="mg-grip-move"
          role="button"
          aria-label="Move the source"
          onPointerDown={(e) => onGrab("source", touch, e)}
        >
          <Shape points={there} radius={radius} className="mg-ring mg-ring-source" closed={closed} />
        </g>
      )}
      {handle && (
        <g className="mg-turn">
          <line className="mg-thread" x1={handle.from[0]} y1={handle.from[1]} x2={handle.to[0]} y2={handle.to[1]} />
          <circle
            className="mg-knob"
            role="button"
            aria-label="Turn and resize the source"
            cx={handle.to[0]}
            cy={handle.to[1]}
            r={6}
            onPointerDown={(e) => onGrab("turn", touch, e)}
          />
        </g>
      )}
      {!closed && (
        <circle
          className="mg-knob"
          role="button"
          aria-label="Resize the touch"
          cx={knob[0]}
          cy={knob[1]}
          r={6}
          onPointerDown={(e) => onGrab("size", touch, e)}
        />
      )}
    </g>
  );
}

export function Rings({ still, pass, view, picked, also, shown, near, onGrab }: Props) {
  const others = (pass?.touches ?? []).filter((t) => {
    if (t.id === picked?.id) return false;
    if (shown || also.includes(t.id)) return true;
    if (!near) return false;
    return outline(t, view).some(([x, y]) => Math.hypot(x - near[0], y - near[1]) < NEAR_PX);
  });
  return (
    <g pointerEvents={still ? "none" : undefined} className={still ? "mg-rings-still" : undefined}>
      {others.map((t) => (
        <g key={t.id} className={`mg-touch ${t.enabled ? "" : "mg-touch-off"}`}>
          <Shape
            points={outline(t, view)}
            radius={radiusOf(t) * scaleAt(view, t.path[0]![0]!, t.path[0]![1]!)}
            className={`mg-ring ${also.includes(t.id) ? "mg-ring-picked" : ""}`}
            closed={isOutline(t)}
          />
          <Dot touch={t} view={view} onGrab={onGrab} />
        </g>
      ))}
      {picked && <Picked touch={picked} view={view} onGrab={onGrab} />}
    </g>
  );
}
