/** The picture with everything drawn over it. */
import { memo, useMemo, useRef } from "react";
import type { Touch } from "../../api/client";
import { HANDS } from "../hands";
import { useDrawn } from "../hands/drawn";
import { grab, type Grip } from "../hands/grab";
import { closeOutline, dragNode } from "../hands/outlining";
import { useBench, useBenchParts } from "../state/bench";
import { choices, fromKey, keyOf, PRINTED, useCompare } from "../state/compare";
import { useFaces } from "../state/faces";
import { useFraming } from "../state/framing";
import { useHand } from "../state/hand";
import { findTouch } from "../state/model";
import { useOutline } from "../state/outline";
import { useTakes } from "../state/takes";
import { useView } from "../state/view";
import { useZones } from "../state/zones";
import { BrushCircle, SourceCross, Traces, UnderWay } from "./Brush";
import { ChangeLegend, CompareLayer } from "./CompareLayer";
import { FacesLayer } from "./FacesLayer";
import { FrameStage } from "./FrameStage";
import { GlassRim } from "./GlassRim";
import { LinesLayer } from "./LinesLayer";
import { MarksLayer } from "./MarksLayer";
import { OutlineLayer } from "./OutlineLayer";
import type { Painter } from "./Painter";
import { PinsLayer } from "./PinsLayer";
import { useGuessing, useReadying } from "./readying";
import { ReadingsLayer } from "./ReadingsLayer";
import { Rings } from "./Rings";
import { usePainter } from "./usePainter";
import { usePointer, type Begin } from "./usePointer";
import { useCross } from "./useCross";
import { scaleAt, toPicture } from "./viewport";
import { ZoneLayer } from "./ZoneLayer";

/** The rings of the open pass; the one in the hand as it is dragged. */
function TouchRings({ begin, busy }: { begin: Begin; busy: () => boolean }) {
  const { passes, picked, also, openPass } = useBenchParts("passes", "picked", "also", "openPass");
  const view = useView((s) => s.view);
  const mode = useHand((s) => s.mode);
  const rings = useHand((s) => s.rings);
  const held = useDrawn((s) => s.held);
  const near = useDrawn((s) => (rings === "near" ? s.pointer : null));

  const onGrab = (grip: Grip, touch: Touch, event: React.PointerEvent) => {
    if (busy() || event.button !== 0) return;
    event.stopPropagation();
    const bench = useBench.getState();
    if (event.ctrlKey || event.metaKey) return bench.pickAlso(touch.id);
    if (touch.id !== bench.picked) bench.pick(touch.id);
    begin(event, (first, work) => grab(grip, touch, first, work));
  };
  const current = findTouch(passes, picked)?.touch ?? null;
  return (
    <Rings
      still={HANDS[mode].still ?? false}
      pass={passes.find((p) => p.id === openPass) ?? null}
      view={view}
      picked={held?.id === picked ? held : current}
      also={also}
      shown={rings === "always"}
      near={near}
      onGrab={onGrab}
    />
  );
}

function Outlines({ begin }: { begin: Begin }) {
  const view = useView((s) => s.view);
  const pointer = useDrawn((s) => s.pointer);
  const onNode = (index: number, event: React.PointerEvent) => {
    event.stopPropagation();
    const { closed, nodes } = useOutline.getState();
    if (index === 0 && !closed && nodes.length >= 3) return closeOutline();
    begin(event, (first) => dragNode(index, first));
  };
  return <OutlineLayer view={view} pointer={pointer && toPicture(view, pointer[0], pointer[1])} onNode={onNode} />;
}

export const PictureView = memo(function PictureView({ painterRef }: { painterRef: React.RefObject<Painter | null> }) {
  const { portrait, frame, passes, openPass } = useBenchParts("portrait", "frame", "passes", "openPass");
  const { mode, panning, glass, lens, fillBy, radius } = useHand();
  const { view, screen, toggleFit } = useView();
  const compare = useCompare();
  const takes = useTakes(portrait?.id);
  const zones = useZones();
  const { zone, zoneShow } = useFaces();
  const framing = useFraming((s) => s.open);
  const sparing = useOutline((s) => s.sparing);
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const full = usePainter(painterRef, box, canvas, portrait?.id, frame);
  const pointer = usePointer(painterRef, box, full);
  const keys = useCross(box, pointer.pressing);
  useReadying(painterRef);
  useGuessing(painterRef);

  const hand = HANDS[mode];
  // Asked for anew where the hand is one of two ways.
  const outlines = useMemo(() => hand.outlines?.() ?? false, [hand, fillBy, sparing]); // eslint-disable-line react-hooks/exhaustive-deps
  const words = choices(passes, openPass, takes.data ?? []);
  const titleOf = (key: string) => words.find((c) => c.key === key)?.title ?? (key === "result" ? "Result" : (PRINTED[fromKey(key).show as keyof typeof PRINTED] ?? key));
  const inLens =
    zoneShow === "glass" ? (zones.data?.find((z) => z.name === zone)?.title ?? zone) : titleOf(keyOf(compare.inGlass));
  const brushing = hand.brush !== undefined && !outlines;

  const doubleClick = (event: React.MouseEvent) => {
    const bounds = box.current!.getBoundingClientRect();
    const [px, py] = [event.clientX - bounds.left, event.clientY - bounds.top];
    const [x, y] = [view.x + px / view.scale, view.y + py / view.scale];
    const { picture } = useView.getState();
    const beside = x < 0 || y < 0 || x > picture.width || y > picture.height;
    if (panning || beside) toggleFit(px, py);
    else if (outlines && useOutline.getState().nodes.length > 2) closeOutline();
  };

  return (
    <div
      ref={box}
      className={`mg-picture ${panning ? "mg-panning" : ""} ${brushing ? "" : "mg-aiming"}`}
      role="application"
      aria-label="Picture"
      data-view={`${view.x} ${view.y} ${view.scale}`}
      tabIndex={0}
      {...pointer.on}
      onPointerMove={(event) => {
        if (keys.cross && !keys.held) keys.away();
        pointer.on.onPointerMove(event);
      }}
      onKeyDown={keys.onKeyDown}
      onBlur={keys.away}
      onDoubleClick={doubleClick}
    >
      <canvas ref={canvas} />
      <svg className="mg-overlay" aria-label="Touches" style={{ width: screen.width, height: screen.height }}>
        {!compare.held && (
          <>
            <ZoneLayer />
            <MarksLayer view={view} />
            <ReadingsLayer view={view} />
            <PinsLayer view={view} />
            <FacesLayer view={view} />
            <LinesLayer view={view} />
            <TouchRings begin={pointer.begin} busy={pointer.busy} />
            <SourceCross />
            {hand.outlines && <Outlines begin={pointer.begin} />}
            <UnderWay />
            <Traces />
          </>
        )}
        {glass && !compare.held && (
          <GlassRim label={inLens.toLowerCase()} lens={lens} screen={screen} onChange={(lens) => useHand.getState().set({ lens })} />
        )}
        <BrushCircle />
        {keys.cross && (
          <g className={`mg-cross ${keys.held ? "mg-cross-held" : ""}`} role="img" aria-label="Cross" data-at={toPicture(view, keys.cross[0], keys.cross[1]).join(" ")} transform={`translate(${keys.cross[0]} ${keys.cross[1]})`}>
            <circle r={Math.max(4, brushing ? radius * scaleAt(view, ...toPicture(view, keys.cross[0], keys.cross[1])) : 4)} />
            <path d="M-14 0 H-4 M4 0 H14 M0 -14 V-4 M0 4 V14" />
          </g>
        )}
      </svg>
      <CompareLayer titleOf={titleOf} />
      <ChangeLegend />
      {framing && <FrameStage />}
    </div>
  );
});
