/** The rim of the Glass: drag it to move the lens, its knob to resize it. */
import type { Lens } from "../state/hand";
import type { Size } from "./viewport";

interface Props {
  lens: Lens;
  screen: Size;
  /** What is seen inside. */
  label: string;
  onChange: (lens: Lens) => void;
}

const SMALLEST = 40;

export function GlassRim({ lens, screen, label, onChange }: Props) {
  const start = (event: React.PointerEvent<SVGElement>, resize: boolean) => {
    event.stopPropagation();
    const target = event.currentTarget;
    target.setPointerCapture(event.pointerId);
    const box = target.ownerSVGElement!.getBoundingClientRect();
    const grabX = event.clientX - box.left - lens.x;
    const grabY = event.clientY - box.top - lens.y;
    const largest = Math.min(screen.width, screen.height) * 0.48;
    target.onpointermove = (e) => {
      const x = e.clientX - box.left;
      const y = e.clientY - box.top;
      if (resize) {
        const radius = Math.hypot(x - lens.x, y - lens.y);
        onChange({ ...lens, radius: Math.min(Math.max(radius, SMALLEST), largest) });
      } else
        onChange({
          ...lens,
          x: Math.min(Math.max(x - grabX, 0), screen.width),
          y: Math.min(Math.max(y - grabY, 0), screen.height),
        });
    };
    target.onpointerup = target.onpointercancel = () => {
      target.onpointermove = target.onpointerup = target.onpointercancel = null;
    };
  };
  const move = (event: React.KeyboardEvent) => {
    const step = event.shiftKey ? 40 : 10;
    const by: Record<string, [number, number]> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    };
    const d = by[event.key];
    if (!d) return;
    event.preventDefault();
    onChange({ ...lens, x: lens.x + d[0], y: lens.y + d[1] });
  };
  const corner = lens.radius * Math.SQRT1_2;
  return (
    <g className="mg-glass">
      <circle className="mg-glass-rim" cx={lens.x} cy={lens.y} r={lens.radius} />
      <circle
        className="mg-glass-grip"
        role="button"
        tabIndex={0}
        aria-label="Move the Glass"
        cx={lens.x}
        cy={lens.y}
        r={lens.radius}
        onPointerDown={(e) => start(e, false)}
        onKeyDown={move}
      />
      <circle
        className="mg-knob"
        role="button"
        aria-label="Resize the Glass"
        cx={lens.x + corner}
        cy={lens.y + corner}
        r={7}
        onPointerDown={(e) => start(e, true)}
      />
      <text className="mg-glass-label" x={lens.x} y={lens.y - lens.radius - 8}>
        {label}
      </text>
    </g>
  );
}
