/** The picture in its own scroll area, with the original over it where that is wanted, and pins. */
import { useEffect, useRef, useState } from "react";
import { addressOf, sizesOf, stepped, type ClientPin, type Shown } from "./visit";

export type Way = "after" | "before" | "wipe";

interface Props {
  token: string;
  shown: Shown;
  way: Way;
  zoom: number;
  pinning: boolean;
  place: [number, number] | null;
  chosen: string;
  onPlace: (place: [number, number]) => void;
  onPin: (pin: ClientPin) => void;
}

/** How much of the window's height the picture takes, per cent (as in showing.css). */
const MOST_HIGH = 72;

const percent = (part: number) => `${(100 * part).toFixed(3)}%`;

export function Compared({ token, shown, way, zoom, pinning, place, chosen, onPlace, onPin }: Props) {
  const area = useRef<HTMLDivElement>(null);
  const sheet = useRef<HTMLDivElement>(null);
  const [wipe, setWipe] = useState(50);
  const [cross, setCross] = useState<[number, number]>([0.5, 0.5]);
  const [failed, setFailed] = useState(false);

  // Seen whole at first: as wide as its room, or as high.
  const high = `${((MOST_HIGH * shown.width) / shown.height).toFixed(2)}vh`;

  // What is in the middle stays there.
  const before = useRef(zoom);
  useEffect(() => {
    const box = area.current;
    if (!box || before.current === zoom) return;
    const by = zoom / before.current;
    before.current = zoom;
    box.scrollLeft = (box.scrollLeft + box.clientWidth / 2) * by - box.clientWidth / 2;
    box.scrollTop = (box.scrollTop + box.clientHeight / 2) * by - box.clientHeight / 2;
  }, [zoom]);

  // Whoever sets pins by keys finds the cross at once.
  useEffect(() => {
    if (pinning) area.current?.focus({ preventScroll: true });
  }, [pinning]);

  const tap = (event: React.MouseEvent) => {
    if (!pinning) return;
    const box = sheet.current!.getBoundingClientRect();
    onPlace([(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height]);
  };
  const key = (event: React.KeyboardEvent) => {
    if (!pinning) return;
    if (event.key === "Enter") {
      event.preventDefault();
      return onPlace(cross);
    }
    const to = stepped(cross, event.key, event.shiftKey);
    if (!to) return;
    event.preventDefault();
    setCross(to);
  };
  const picture = (side: "result" | "original", alt: string, style?: React.CSSProperties) => (
    <img
      key={side}
      className={side === "original" ? "show-before" : ""}
      src={addressOf(token, shown, side, "screen")}
      srcSet={sizesOf(token, shown, side)}
      sizes={`calc(${zoom} * min(100vw, ${high}))`}
      alt={alt}
      style={style}
      draggable={false}
      onError={() => setFailed(true)}
    />
  );
  return (
    <>
      <div
        ref={area}
        className={`show-picture ${pinning ? "show-pinning" : ""}`}
        tabIndex={0}
        role="group"
        aria-label={pinning ? "Picture, place for a pin" : "Picture"}
        onKeyDown={key}
      >
        <div ref={sheet} className="show-sheet" style={{ width: `calc(${zoom} * min(100%, ${high}))`, aspectRatio: `${shown.width} / ${shown.height}` }} onClick={tap}>
          {picture("result", `${shown.name}, retouched`)}
          {way !== "after" && picture("original", `${shown.name}, before`, way === "wipe" ? { clipPath: `inset(0 ${100 - wipe}% 0 0)` } : undefined)}
          {way === "wipe" && <span className="show-wipe-line" style={{ left: `${wipe}%` }} />}
          {way !== "before" &&
            shown.pins
              .filter((p) => p.x >= 0 && p.x <= 1 && p.y >= 0 && p.y <= 1)
              .map((pin) => (
                <button
                  key={pin.id}
                  type="button"
                  className={`show-pin show-pin-${pin.kind} ${pin.done ? "show-pin-done" : ""} ${chosen === pin.id ? "show-pin-chosen" : ""}`}
                  style={{ left: percent(pin.x), top: percent(pin.y) }}
                  aria-label={`Pin ${shown.pins.indexOf(pin) + 1}`}
                  onClick={(e) => {
                    e.stopPropagation();
                    onPin(pin);
                  }}
                >
                  {shown.pins.indexOf(pin) + 1}
                </button>
              ))}
          {pinning && !place && <span className="show-cross" style={{ left: percent(cross[0]), top: percent(cross[1]) }} />}
          {place && <span className="show-pin show-pin-new" style={{ left: percent(place[0]), top: percent(place[1]) }} />}
        </div>
      </div>
      {failed && (
        <p className="show-problem" role="alert">
          A picture couldn&rsquo;t be loaded. Load the page again.
        </p>
      )}
      {way === "wipe" && (
        <label className="show-wipe">
          Before
          <input type="range" min={0} max={100} value={wipe} aria-label="Wipe between before and after" onChange={(e) => setWipe(Number(e.target.value))} />
          After
        </label>
      )}
    </>
  );
}
