/** Clients' pins over the picture, numbered as in their list; their words show when pointed at. */
import { usePins } from "../state/pins";
import { toScreen, type View } from "./viewport";

export function PinsLayer({ view }: { view: View }) {
  const pins = usePins();
  return (
    <g>
      {pins.map((pin, n) => {
        if (pin.done) return null;
        const [x, y] = toScreen(view, pin.x, pin.y);
        return (
          <g key={pin.id} className={`mg-pin mg-pin-${pin.kind}`} role="img" aria-label={`Pin ${n + 1}: ${pin.words || "keep this"}`} transform={`translate(${x} ${y})`}>
            <title>{pin.words || "Keep this"}</title>
            <path d="M0 0 L-6 -10 A10 10 0 1 1 6 -10 Z" />
            <text y={-14}>{n + 1}</text>
          </g>
        );
      })}
    </g>
  );
}
