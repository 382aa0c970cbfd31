/** Curves through points: press to add one, drag it, double-click to take it away. */
import { useRef, useState } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import type { Setting } from "../../api/client";
import { kept, placeFor, type CurvePoint } from "../state/curves";
import { useTones, BINS } from "../state/tones";

const SIDE = 196;
const NEAR = 0.045;
const COLOURS: Record<string, string> = { light: "var(--ink)", red: "#b0483c", green: "#3f7d4f", blue: "#3c62a8" };

/** A smooth line through the points, near enough to what is computed to be drawn. */
function drawn(points: readonly CurvePoint[]): string {
  const slopes = points.map((p, n) => {
    const [a, b] = [points[n - 1], points[n + 1]];
    const before = a ? (p[1] - a[1]) / (p[0] - a[0]) : null;
    const after = b ? (b[1] - p[1]) / (b[0] - p[0]) : null;
    if (before === null || after === null) return before ?? after ?? 1;
    return before * after <= 0 ? 0 : (2 * before * after) / (before + after);
  });
  const at = ([x, y]: CurvePoint) => `${(x * SIDE).toFixed(1)},${((1 - y) * SIDE).toFixed(1)}`;
  let d = `M0,${((1 - points[0]![1]) * SIDE).toFixed(1)} L${at(points[0]!)}`;
  for (let n = 1; n < points.length; n++) {
    const [a, b] = [points[n - 1]!, points[n]!];
    const h = (b[0] - a[0]) / 3;
    d += ` C${at([a[0] + h, a[1] + h * slopes[n - 1]!])} ${at([b[0] - h, b[1] - h * slopes[n]!])} ${at(b)}`;
  }
  return `${d} L${SIDE},${((1 - points.at(-1)![1]) * SIDE).toFixed(1)}`;
}

interface Props {
  settings: readonly Setting[];
  values: (setting: Setting) => CurvePoint[];
  onDraft: (name: string, points: CurvePoint[]) => void;
  onCommit: (name: string, points: CurvePoint[]) => void;
}

export function CurveEditor({ settings, values, onDraft, onCommit }: Props) {
  const [channel, setChannel] = useState(settings[0]!.name);
  const [held, setHeld] = useState<CurvePoint[] | null>(null);
  const histogram = useTones((s) => s.histogram);
  const box = useRef<SVGSVGElement>(null);
  const setting = settings.find((s) => s.name === channel) ?? settings[0]!;
  const points = held ?? values(setting);
  const colour = COLOURS[setting.name] ?? "var(--ink)";
  const place = (event: React.MouseEvent | PointerEvent): CurvePoint => {
    const bounds = box.current!.getBoundingClientRect();
    return [(event.clientX - bounds.left) / bounds.width, 1 - (event.clientY - bounds.top) / bounds.height];
  };
  const drag = (event: React.PointerEvent, from: CurvePoint[], n: number) => {
    const target = box.current!;
    target.setPointerCapture(event.pointerId);
    let now = from;
    target.onpointermove = (e) => {
      now = now.map((p, k) => (k === n ? kept(from, n, place(e)) : p));
      setHeld(now);
      onDraft(setting.name, now);
    };
    target.onpointerup = target.onpointercancel = () => {
      target.onpointermove = target.onpointerup = target.onpointercancel = null;
      setHeld(null);
      if (now !== from || from !== points) onCommit(setting.name, now);
    };
  };
  const down = (event: React.PointerEvent) => {
    if (event.button !== 0) return;
    const [x, y] = place(event);
    const near = points.findIndex((p) => Math.hypot(p[0] - x, p[1] - y) < NEAR);
    if (near >= 0) return drag(event, points, near);
    const n = placeFor(points, x);
    if (n === null) return;
    const added: CurvePoint[] = [...points.slice(0, n), [0, 0], ...points.slice(n)];
    const next = added.map((p, k) => (k === n ? kept(added.map((q, m) => (m === n ? [x, y] : q)), n, [x, y]) : p));
    setHeld(next);
    onDraft(setting.name, next);
    drag(event, next, n);
  };
  const remove = (n: number) => {
    if (points.length > 2 && n > 0 && n < points.length - 1) onCommit(setting.name, points.filter((_, k) => k !== n));
  };
  /** A press captures the pointer, so what lies under it is looked for. */
  const doubleClick = (event: React.MouseEvent) => {
    const [x, y] = place(event);
    const near = points.findIndex((p) => Math.hypot(p[0] - x, p[1] - y) < NEAR);
    if (near >= 0) remove(near);
  };
  const nudge = (event: React.KeyboardEvent, n: number) => {
    const step = event.shiftKey ? 0.05 : 0.01;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[event.key];
    if (event.key === "Delete" || event.key === "Backspace") return remove(n);
    if (!by) return;
    event.preventDefault();
    const [x, y] = points[n]!;
    onCommit(setting.name, points.map((p, k) => (k === n ? kept(points, n, [x + by[0]!, y + by[1]!]) : p)));
  };
  const counts = histogram?.counts[Math.max(0, settings.indexOf(setting))];
  return (
    <div className="mg-curves" role="group" aria-label="Curves">
      <ButtonGroup size="sm" aria-label="Channel">
        {settings.map((s) => (
          <Button key={s.name} variant="tray" active={s.name === channel} aria-pressed={s.name === channel} onClick={() => setChannel(s.name)}>
            {s.title}
          </Button>
        ))}
      </ButtonGroup>
      <svg ref={box} viewBox={`0 0 ${SIDE} ${SIDE}`} onPointerDown={down} onDoubleClick={doubleClick} aria-label={`Curve of ${setting.title.toLowerCase()}`}>
        {counts && (
          <path
            className="mg-curves-ground"
            d={`M0,${SIDE} ${counts.map((n, k) => `L${((k + 0.5) / BINS) * SIDE},${SIDE - n * SIDE * 0.8}`).join(" ")} L${SIDE},${SIDE} Z`}
          />
        )}
        <path className="mg-curves-grid" d={[0.25, 0.5, 0.75].map((p) => `M${p * SIDE},0 V${SIDE} M0,${p * SIDE} H${SIDE}`).join(" ")} />
        <path className="mg-curves-line" d={drawn(points)} style={{ stroke: colour }} />
        {points.map((p, n) => (
          <circle
            key={n}
            className="mg-curves-point"
            role="button"
            tabIndex={0}
            aria-label={`Point ${n + 1}: ${Math.round(p[0] * 100)} to ${Math.round(p[1] * 100)}`}
            cx={p[0] * SIDE}
            cy={(1 - p[1]) * SIDE}
            r={5}
            style={{ stroke: colour }}
            onKeyDown={(e) => nudge(e, n)}
          />
        ))}
      </svg>
      <Button size="sm" variant="quiet" title="This curve straight again" onClick={() => onCommit(setting.name, [[0, 0], [1, 1]])}>
        Straight
      </Button>
    </div>
  );
}
