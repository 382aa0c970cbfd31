/** What the compare views draw over the picture: names, the wipe's line, the scale of changes. */
import { useQuery } from "@tanstack/react-query";
import { client, unwrap } from "../../api/client";
import { keyOf, useCompare } from "../state/compare";
import { useHand } from "../state/hand";
import { useView } from "../state/view";

const STEP = 0.01;

function WipeLine() {
  const { upright, at, set } = useCompare();
  const { screen } = useView();
  const place = upright ? { left: at * screen.width } : { top: at * screen.height };
  const move = (event: React.PointerEvent) => {
    if (event.buttons !== 1) return;
    const box = event.currentTarget.parentElement!.getBoundingClientRect();
    const part = upright ? (event.clientX - box.left) / screen.width : (event.clientY - box.top) / screen.height;
    set({ at: Math.min(Math.max(part, 0), 1) });
  };
  return (
    <div
      className={`mg-wipe ${upright ? "mg-wipe-upright" : "mg-wipe-level"}`}
      style={place}
      role="slider"
      tabIndex={0}
      aria-label="Wipe"
      aria-orientation={upright ? "horizontal" : "vertical"}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(at * 100)}
      title="Drag to uncover; double-click turns the line"
      onPointerDown={(e) => {
        e.stopPropagation();
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={move}
      onDoubleClick={(e) => {
        e.stopPropagation();
        set({ upright: !upright });
      }}
      onKeyDown={(e) => {
        const by = { ArrowLeft: -STEP, ArrowUp: -STEP, ArrowRight: STEP, ArrowDown: STEP }[e.key];
        if (!by) return;
        e.preventDefault();
        set({ at: Math.min(Math.max(at + by * (e.shiftKey ? 10 : 1), 0), 1) });
      }}
    >
      <span />
    </div>
  );
}

export function CompareLayer({ titleOf }: { titleOf: (key: string) => string }) {
  const { mode, against, instead, held, at, upright } = useCompare();
  const { screen } = useView();
  if (held) return <div className="mg-flag">{titleOf(keyOf(held))}</div>;
  const here = titleOf(keyOf(instead));
  const there = titleOf(keyOf(against));
  if (mode === "wipe")
    return (
      <>
        <WipeLine />
        <div className="mg-flag mg-flag-left">{here}</div>
        <div
          className="mg-flag"
          style={upright ? { left: "auto", right: 12, transform: "none", opacity: at > 0.9 ? 0 : 1 } : { top: "auto", bottom: 12 }}
        >
          {there}
        </div>
      </>
    );
  if (mode === "flicker") return <div className="mg-flag">{`${here} and ${there} by turns`}</div>;
  if (mode === "side" || mode === "stack") {
    const second =
      mode === "side" ? { left: `calc(100% - ${screen.width / 2}px)` } : { top: `calc(100% - ${screen.height}px + 12px)` };
    const first = mode === "side" ? { left: screen.width / 2 } : {};
    return (
      <>
        <div className="mg-flag" style={first}>
          {here}
        </div>
        <div className="mg-flag" style={second}>
          {there}
        </div>
      </>
    );
  }
  return instead.show === "result" ? null : <div className="mg-flag">{here}</div>;
}

/** The colours of changes with their numbers, wherever changes are shown. */
export function ChangeLegend() {
  const { mode, against, instead, inGlass, held } = useCompare();
  const glass = useHand((s) => s.glass);
  const seen = [instead, held, glass ? inGlass : null, mode === "off" ? null : against];
  const wanted = seen.some((s) => s?.show === "change" || s?.show === "gamut");
  const stops = useQuery({
    queryKey: ["change-scale"],
    queryFn: () => unwrap(client.GET("/api/change-scale")),
    staleTime: Infinity,
    enabled: wanted,
  });
  if (!wanted || !stops.data) return null;
  return (
    <dl className="mg-legend" aria-label="Colours of differences, CIEDE2000">
      <dt>ΔE</dt>
      {stops.data.map((s, n) => (
        <dd key={s.difference}>
          <i style={{ background: `rgb(${s.colour.join(" ")})` }} />
          {s.difference}
          {n === stops.data.length - 1 ? " or more" : ""}
        </dd>
      ))}
    </dl>
  );
}
