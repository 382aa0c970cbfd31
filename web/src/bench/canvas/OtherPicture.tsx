/** The other portrait beside this one, at the place that this one shows; Alt-click chooses a source. */
import { useEffect, useRef, useState, type MouseEvent } from "react";
import { CloseButton } from "react-bootstrap";
import { useHand } from "../state/hand";
import { through, useOther } from "../state/other";
import { useView } from "../state/view";
import { toPicture } from "./viewport";

const SIDE = 300;
const SETTLED_MS = 180;

export function OtherPicture() {
  const { id, shown, laid, set } = useOther();
  const { view, screen } = useView();
  const chosen = useHand((s) => s.chosen);
  const setHand = useHand((s) => s.set);
  const [at, setAt] = useState<{ x: number; y: number; scale: number } | null>(null);
  const settling = useRef(0);
  useEffect(() => {
    if (!laid || !shown) return;
    window.clearTimeout(settling.current);
    settling.current = window.setTimeout(() => {
      const middle = through(laid.there, toPicture(view, screen.width / 2, screen.height / 2));
      const size = Math.hypot(laid.there[0]![0], laid.there[0]![1]);
      // Never smaller than it fits, never larger than one to one.
      const scale = Math.min(Math.max(view.scale / size, SIDE / Math.min(laid.width, laid.height)), 1);
      const within = (at: number, length: number) => Math.min(Math.max(at - SIDE / scale / 2, 0), Math.max(length - SIDE / scale, 0));
      setAt({ x: within(middle[0], laid.width), y: within(middle[1], laid.height), scale });
    }, SETTLED_MS);
    return () => window.clearTimeout(settling.current);
  }, [laid, shown, view, screen]);
  if (!shown || id === null || !laid) return null;
  const choose = (e: MouseEvent<HTMLElement>) => {
    if (!at || !e.altKey) return;
    const box = e.currentTarget.getBoundingClientRect();
    const [x, y] = through(laid.back, [at.x + (e.clientX - box.left) / at.scale, at.y + (e.clientY - box.top) / at.scale]);
    setHand({ chosen: { x, y, offset: null, elsewhere: { picture: laid.picture, pins: laid.pins as [number, number, number, number][] } } });
  };
  const query = at && new URLSearchParams({ x: String(at.x), y: String(at.y), scale: String(at.scale), width: String(SIDE), height: String(SIDE), show: "original", unframed: "true" });
  const source = chosen?.elsewhere ? through(laid.there, [chosen.x, chosen.y]) : null;
  return (
    <figure className="mg-other" aria-label={`Beside: ${laid.name}`}>
      <figcaption>
        {laid.name} <small>Alt-click: take from here</small>
        <CloseButton aria-label="Close the other picture" onClick={() => set({ shown: false })} />
      </figcaption>
      <div className="mg-other-picture" style={{ width: SIDE, height: SIDE }} onClick={choose}>
        {query && <img src={`/api/portraits/${id}/view?${query.toString()}`} width={SIDE} height={SIDE} alt={laid.name} draggable={false} />}
        {source && at && (
          <span className="mg-other-source" style={{ left: (source[0] - at.x) * at.scale, top: (source[1] - at.y) * at.scale }} />
        )}
      </div>
    </figure>
  );
}
