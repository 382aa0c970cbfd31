/** The picture with everything drawn over it, and what the pointer does there. */
import { memo, useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Operation, Touch } from "../../api/client";
import { useBench, useBenchParts } from "../state/bench";
import { CLEARING, offsetFor, OUTLINING, PAINTING, TAKING, useHand, type Mode } from "../state/hand";
import { extent, findTouch, radiusOf, turnedTo, union } from "../state/model";
import { bandSettings, passFor, pxPerMm } from "../state/bands";
import { choices, keyOf, useCompare } from "../state/compare";
import { useTakes } from "../state/takes";
import { useView } from "../state/view";
import { useOutline } from "../state/outline";
import { useZones } from "../state/zones";
import { inside, keptUnder } from "../state/marks";
import { useFaces } from "../state/faces";
import { FacesLayer } from "./FacesLayer";
import { OutlineLayer } from "./OutlineLayer";
import { CompareLayer, ChangeLegend } from "./CompareLayer";
import { fillOf, openAdded, outlines, useOutlining } from "./useOutlining";
import { GlassRim } from "./GlassRim";
import { MarksLayer } from "./MarksLayer";
import { GAP, Painter } from "./Painter";
import { addGradient, pickColour } from "./masking";
import { dragTo, forget, press, release } from "./pressing";
import { useReadying } from "./readying";
import { Rings, type Grip } from "./Rings";
import { toPicture, toScreen, type Size } from "./viewport";
import { ZoneLayer } from "./ZoneLayer";

interface Drag {
  grip: Grip;
  touch: Touch;
  from: [number, number];
  now: Touch;
}

/** Points of a stroke closer than this part of the radius add nothing. */
const SPACING = 0.2;

function dragged(drag: Drag, x: number, y: number): Touch {
  const { touch, from, grip } = drag;
  const [dx, dy] = [x - from[0], y - from[1]];
  if (grip === "move") return { ...touch, path: touch.path.map((p) => [p[0]! + dx, p[1]! + dy]) };
  if (grip === "source") {
    const [sx, sy] = touch.source ?? [0, 0];
    return { ...touch, source: [Math.round(sx! + dx), Math.round(sy! + dy)] };
  }
  if (grip === "turn")
    return { ...touch, values: { ...touch.values, ...turnedTo(touch, useView.getState().view.scale, x, y) } };
  const [cx, cy] = touch.path[0]!;
  const radius = Math.min(Math.max(Math.hypot(x - cx!, y - cy!), 1), 2000);
  return { ...touch, values: { ...touch.values, radius_px: Math.round(radius * 2) / 2 } };
}

function operationOf(drag: Drag): Operation {
  const { now, grip } = drag;
  const base = { op: "change_touch" as const, id: now.id, new_source: false };
  if (grip === "move") return { ...base, path: now.path };
  if (grip === "source") return { ...base, source: now.source };
  const { source_turn, source_size } = now.values;
  if (grip === "turn") return { ...base, values: { source_turn: source_turn!, source_size: source_size! } };
  return { ...base, values: { radius_px: radiusOf(now) } };
}

/** What is being drawn in the modes that don't paint: a lasso, a box, a ring, a shift. */
function UnderWay({ mode, path }: { mode: Mode; path: [number, number][] }) {
  const { view } = useView();
  const points = path.map((p) => toScreen(view, p[0], p[1]));
  const [a, b] = [points[0]!, points.at(-1)!];
  if (mode === "lasso") return <polygon className="mg-drawn" points={points.map((p) => p.join(",")).join(" ")} />;
  if (mode === "face")
    return (
      <rect
        className="mg-drawn"
        x={Math.min(a[0], b[0])}
        y={Math.min(a[1], b[1])}
        width={Math.abs(b[0] - a[0])}
        height={Math.abs(b[1] - a[1])}
      />
    );
  if (mode === "iris")
    return <circle className="mg-drawn" cx={a[0]} cy={a[1]} r={Math.hypot(b[0] - a[0], b[1] - a[1])} />;
  if (mode === "nudge" || mode === "gradient") return <line className="mg-drawn" x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} />;
  return null;
}

/** Where the next stroke, or the one under way, takes from. */
function SourceCross({ at, start }: { at: readonly number[] | null; start: readonly number[] | null }) {
  const { view } = useView();
  const { chosen, aligned, radius } = useHand();
  if (!chosen) return null;
  const from = start ?? at;
  const offset = from && offsetFor(chosen, aligned, from[0]!, from[1]!);
  const moving = at && offset && (start !== null || (aligned && chosen.offset !== null));
  const [x, y] = moving
    ? toScreen(view, at[0]! + offset[0], at[1]! + offset[1])
    : toScreen(view, chosen.x, chosen.y);
  return (
    <g className="mg-source-cross" pointerEvents="none" role="img" aria-label="Chosen source">
      <circle cx={x} cy={y} r={radius * view.scale} />
      <path d={`M${x - 6} ${y} h12 M${x} ${y - 6} v12`} />
    </g>
  );
}

export const PictureView = memo(function PictureView({ painterRef }: { painterRef: React.RefObject<Painter | null> }) {
  const { portrait, passes, picked, also, openPass, gesture, pick } = useBenchParts("portrait", "passes", "picked", "also", "openPass", "gesture", "pick");
  const hand = useHand();
  const { view, screen, setScreen, zoomAt, panBy, toggleFit } = useView();
  const compare = useCompare();
  const takes = useTakes(portrait?.id);
  const box = useRef<HTMLDivElement>(null);
  const full = useRef<Size>({ width: 1, height: 1 });
  const canvas = useRef<HTMLCanvasElement>(null);
  const [pointer, setPointer] = useState<[number, number] | null>(null);
  const [stroke, setStroke] = useState<[number, number][] | null>(null);
  const [pending, setPending] = useState<{ key: number; path: number[][]; radius: number }[]>([]);
  const [drag, setDrag] = useState<Drag | null>(null);
  /** The stroke under way, or the last one; it keeps its key when it is finished. */
  const [strokeKey, setStrokeKey] = useState(0);
  const pan = useRef<[number, number] | null>(null);
  /** Where a colour is pressed on, on the screen. */
  const pressedAt = useRef<[number, number] | null>(null);
  /** The most that a pen was pressed during the stroke; null for what has no pressure. */
  const pressure = useRef<number | null>(null);
  const outlining = useOutlining(painterRef);
  useReadying(painterRef);

  const size: Size = useMemo(
    () => ({ width: portrait?.width ?? 1, height: portrait?.height ?? 1 }),
    [portrait?.width, portrait?.height],
  );
  const id = portrait?.id;

  useEffect(() => {
    if (!id) return;
    const painter = new Painter({
      id,
      picture: size,
      canvas: canvas.current!,
      onError: (error) =>
        // Another window has changed the portrait: follow it, nothing is wrong.
        error.status === 409
          ? void useBench.getState().catchUp()
          : useBench.setState({ problem: error.message }),
      // Told to the element itself: nothing else has to be drawn anew for it.
      onSharp: (sharp) => (box.current!.dataset["sharp"] = String(sharp)),
    });
    painterRef.current = painter;
    const { view: v, screen: s } = useView.getState();
    painter.resize(full.current, s, window.devicePixelRatio);
    painter.look(v);
    void painter.start(useBench.getState().revision);
    useBench.getState().follow(
      (outcome) => painter.changed(outcome.revision, outcome.dirty, outcome.pixels),
      (revision) => void painter.reload(revision),
      () => painter.seen(),
    );
    // Told before anything is drawn anew for it: the pixels are asked for at once.
    const deaf = useView.subscribe((now, before) => now.view !== before.view && painter.look(now.view));
    return () => {
      deaf();
      painter.close();
      painterRef.current = null;
    };
  }, [id, size, painterRef]);

  useEffect(() => {
    const element = box.current!;
    const measure = () => {
      const { width, height } = element.getBoundingClientRect();
      const screen = {
        width: compare.mode === "side" ? Math.floor((width - GAP) / 2) : width,
        height: compare.mode === "stack" ? Math.floor((height - GAP) / 2) : height,
      };
      full.current = { width, height };
      setScreen(screen);
      painterRef.current?.resize(full.current, screen, window.devicePixelRatio);
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, [setScreen, painterRef, compare.mode]);

  useEffect(
    () =>
      painterRef.current?.arrange({
        instead: compare.instead,
        held: compare.held,
        lens: hand.glass ? hand.lens : null,
        inGlass: compare.inGlass,
        compare,
        sizes: { px_per_mm: Math.min(Math.max(pxPerMm(), 0.2), 300), divide_mm: hand.divide },
      }),
    [compare, hand.glass, hand.lens, hand.divide, painterRef, id],
  );

  const wheel = useCallback(
    (event: WheelEvent) => {
      event.preventDefault();
      const bounds = box.current!.getBoundingClientRect();
      if (event.altKey) {
        useHand.getState().grow(Math.exp(-event.deltaY * 0.0015));
        return;
      }
      // A pinch on a touchpad arrives as a wheel with Ctrl and small steps.
      const speed = event.ctrlKey ? 0.01 : event.deltaMode === 1 ? 0.05 : 0.0015;
      zoomAt(
        Math.exp(-event.deltaY * speed),
        event.clientX - bounds.left,
        event.clientY - bounds.top,
      );
    },
    [zoomAt],
  );
  useEffect(() => {
    const element = box.current!;
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [wheel]);

  const local = (event: React.PointerEvent): [number, number] => {
    const bounds = box.current!.getBoundingClientRect();
    const [x, y] = [event.clientX - bounds.left, event.clientY - bounds.top];
    // In the second picture of two the hand does the same as in the first.
    const second = { side: [full.current.width - screen.width, 0], stack: [0, full.current.height - screen.height] };
    const [dx, dy] = second[compare.mode as "side" | "stack"] ?? [0, 0];
    return (dx && x >= dx) || (dy && y >= dy) ? [x - dx!, y - dy!] : [x, y];
  };
  const inPicture = (event: React.PointerEvent) => toPicture(view, ...local(event));

  const down = (event: React.PointerEvent) => {
    if (event.button === 1 || (event.button === 0 && hand.panning)) {
      event.currentTarget.setPointerCapture(event.pointerId);
      pan.current = [event.clientX, event.clientY];
      return;
    }
    if (event.button !== 0 || compare.held) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    if (event.pointerType === "pen" && !hand.penSeen) hand.set({ penSeen: true });
    const [x, y] = inPicture(event);
    if (x < -hand.radius || y < -hand.radius || x > size.width + hand.radius || y > size.height + hand.radius)
      return pick(null);
    if (event.altKey && TAKING.includes(hand.mode)) {
      hand.set({ chosen: { x, y, offset: null } });
      return;
    }
    if (outlines(hand.mode, hand.fillBy)) return outlining.down([x, y]);
    if (hand.mode === "press") {
      pressedAt.current = [event.clientX, event.clientY];
      return void press([x, y], painterRef.current);
    }
    setStroke([[x, y]]);
    setStrokeKey((key) => key + 1);
    pressure.current = event.pointerType === "pen" && hand.pressure ? event.pressure : null;
  };

  const move = (event: React.PointerEvent) => {
    setPointer(local(event));
    if (pan.current) {
      panBy(event.clientX - pan.current[0], event.clientY - pan.current[1]);
      pan.current = [event.clientX, event.clientY];
      return;
    }
    if (pressedAt.current) {
      const [fromX, fromY] = pressedAt.current;
      return dragTo([event.clientX - fromX, event.clientY - fromY], painterRef.current);
    }
    const [x, y] = inPicture(event);
    if (outlining.move([x, y])) return;
    if (drag) {
      const now = dragged(drag, x, y);
      setDrag({ ...drag, now });
      painterRef.current?.showDraft(
        [operationOf({ ...drag, now })],
        union(extent(drag.touch), extent(now)),
      );
      return;
    }
    if (stroke) {
      const last = stroke.at(-1)!;
      const [first] = stroke;
      // A box, a ring or a shift has two ends only.
      if (pressure.current !== null) pressure.current = Math.max(pressure.current, event.pressure);
      if (hand.mode === "face" || hand.mode === "iris" || hand.mode === "nudge" || hand.mode === "gradient")
        setStroke([first!, [x, y]]);
      else if (Math.hypot(x - last[0], y - last[1]) >= Math.max(SPACING * (hand.mode === "lasso" ? 4 : hand.radius), 0.7))
        setStroke([...stroke, [x, y]]);
    }
  };

  /** What the hand does in another mode than healing. */
  const finishOther = (path: [number, number][]) => {
    const faces = useFaces.getState();
    const [first, last] = [path[0]!, path.at(-1)!];
    const long = Math.hypot(last[0] - first[0], last[1] - first[1]);
    const face = (what: string, points: [number, number][], radius_px?: number) =>
      gesture(
        {
          op: "add_touch",
          kind: "faces",
          touch: { path: points, values: radius_px ? { what, radius_px } : { what } },
        },
        () => void useFaces.getState().refresh(),
      );
    switch (hand.mode) {
      case "lasso": {
        const marks = faces.analysis?.marks ?? [];
        faces.set({ selected: marks.filter((m) => inside(path, m.x, m.y)).map((m) => m.id) });
        break;
      }
      case "face":
        if (long * view.scale > 12) face("face", [first, last]);
        break;
      case "pick":
        return void pickColour(last);
      case "gradient":
        if (long * view.scale > 4) addGradient(first, last);
        break;
      case "iris":
        if (long >= 1.5) face("iris", [first], long);
        break;
      case "nudge":
        if (long >= 0.5) face("nudge", [first, last]);
        break;
      default:
        gesture({
          op: "add_touch",
          kind: "zones",
          touch: {
            path: hand.mode === "colour" ? [last] : path,
            values: {
              zone: faces.zone,
              add: hand.adding,
              way: hand.mode === "colour" ? "colour" : "brush",
              radius_px: hand.radius,
              softness: hand.softness,
              edges: hand.edges,
              tolerance: hand.tolerance,
            },
          },
        });
        return;
    }
    // A box or ring is drawn once; a lasso or brush goes on.
    if (hand.mode !== "lasso") hand.set({ mode: "heal" });
  };

  /** A stroke's own trace stays until its pixels are there. */
  const seen = (key: number, painted: Promise<void>) =>
    void painted.finally(() => setPending((p) => p.filter((q) => q.key !== key)));

  /** Ease the open pass along a path, or bring it back. */
  const ease = (path: number[][]) => {
    const bench = useBench.getState();
    if (!bench.openPass) return bench.say("Open the pass that you want to ease first.");
    const key = strokeKey;
    setPending((p) => [...p, { key, path, radius: hand.radius }]);
    const { radius: radius_px, softness, flow, reveal, maskEdges: edges } = hand;
    gesture({ op: "paint_mask", pass_id: bench.openPass, stroke: { path, radius_px, softness, flow, reveal, edges } }, (_, painted) =>
      seen(key, painted),
    );
  };

  const fill = (path: number[][]) => {
    const key = strokeKey;
    setPending((p) => [...p, { key, path, radius: hand.radius }]);
    gesture(fillOf(path, "brush"), (outcome, painted) => {
      seen(key, painted);
      openAdded(outcome);
    });
  };

  /** Heal or clone along a path. */
  const paint = (path: number[][]) => {
    const kind = hand.mode;
    const key = strokeKey;
    const taking = TAKING.includes(kind);
    const source = taking ? offsetFor(hand.chosen, hand.aligned, path[0]![0]!, path[0]![1]!) : null;
    if (hand.chosen && source) hand.set({ chosen: { ...hand.chosen, offset: source } });
    // A pen pressed lightly paints smaller and weaker.
    const pressed = pressure.current === null ? 1 : Math.min(Math.max(pressure.current, 0.1), 1);
    const radius_px = Math.max(Math.round(2 * hand.radius * pressed) / 2, 0.5);
    setPending((p) => [...p, { key, path, radius: radius_px }]);
    const values: Record<string, number | string> = {
      radius_px,
      softness: hand.softness,
      opacity: Math.max(Math.round(hand.opacity * pressed), 1),
    };
    if (kind === "clone" || kind === "blend" || kind === "dodge_burn") values["flow"] = hand.flow;
    if (kind === "dodge_burn") Object.assign(values, { way: hand.light, range: hand.lightRange, exposure: hand.exposure });
    gesture(
      { op: "add_touch", kind, pass_id: passFor(kind), settings: bandSettings(kind), touch: { path, values, source } },
      (outcome, painted) => {
        seen(key, painted);
        openAdded(outcome);
      },
    );
  };

  const finishStroke = () => {
    if (!stroke) return;
    if (!CLEARING.includes(hand.mode)) {
      finishOther(stroke.map(([x, y]) => [Math.round(x * 100) / 100, Math.round(y * 100) / 100]));
      setStroke(null);
      return;
    }
    const path = stroke.map(([x, y]) => [Math.round(x * 100) / 100, Math.round(y * 100) / 100]);
    setStroke(null);
    if (hand.mode === "ease") return ease(path);
    if (hand.mode === "fill") return fill(path);
    if (hand.mode === "blend" || hand.mode === "dodge_burn") return paint(path);
    const kept = keptUnder(useFaces.getState().analysis?.marks ?? [], path, hand.radius);
    if (kept.length === 0) return paint(path);
    useBench.getState().ask({
      text: kept.length === 1 ? "You wanted to keep this mark." : `You wanted to keep ${kept.length} marks here.`,
      yes: `${hand.mode === "clone" ? "Clone" : "Heal"} anyway`,
      go: () => paint(path),
    });
  };

  const up = () => {
    if (pan.current) {
      pan.current = null;
      return;
    }
    if (pressedAt.current) {
      pressedAt.current = null;
      return release(painterRef.current);
    }
    if (outlining.up()) return;
    if (drag) {
      const moved = JSON.stringify(drag.now) !== JSON.stringify(drag.touch);
      const { also } = useBench.getState();
      if (moved && drag.grip === "move" && also.length) {
        const [a, b] = [drag.touch.path[0]!, drag.now.path[0]!];
        const shift = [Math.round(b[0]! - a[0]!), Math.round(b[1]! - a[1]!)];
        gesture({ op: "change_touches", ids: [drag.touch.id, ...also], shift }, (o) => !o && painterRef.current?.endDraft());
      } else if (moved) gesture(operationOf(drag), (o) => !o && painterRef.current?.endDraft());
      setDrag(null);
      return;
    }
    finishStroke();
  };

  const cancel = () => {
    pan.current = null;
    if (pressedAt.current) forget(painterRef.current);
    pressedAt.current = null;
    outlining.cancel();
    setStroke(null);
    if (drag) painterRef.current?.endDraft();
    setDrag(null);
  };

  const grab = (grip: Grip, touch: Touch, event: React.PointerEvent) => {
    if (hand.panning || compare.held || event.button !== 0) return;
    event.stopPropagation();
    if (event.ctrlKey || event.metaKey) return useBench.getState().pickAlso(touch.id);
    box.current!.setPointerCapture(event.pointerId);
    if (touch.id !== picked) pick(touch.id);
    setDrag({ grip, touch, from: inPicture(event), now: touch });
  };

  const current = findTouch(passes, picked);
  const pickedTouch = drag && drag.touch.id === picked ? drag.now : (current?.touch ?? null);
  const ringPass = passes.find((p) => p.id === openPass) ?? null;
  const radius = hand.radius * view.scale;
  const zones = useZones();
  const { zone, zoneShow } = useFaces();
  const words = choices(passes, openPass, takes.data ?? []);
  const titleOf = (key: string) => words.find((c) => c.key === key)?.title ?? (key === "result" ? "Result" : key);
  const inLens =
    zoneShow === "glass" ? (zones.data?.find((z) => z.name === zone)?.title ?? zone) : titleOf(keyOf(compare.inGlass));
  const brushing = PAINTING.includes(hand.mode) && !outlines(hand.mode, hand.fillBy);
  const within =
    pointer &&
    !drag &&
    pointer[0] >= 0 &&
    pointer[1] >= 0 &&
    pointer[0] <= screen.width &&
    pointer[1] <= screen.height;

  return (
    <div
      ref={box}
      className={`mg-picture ${hand.panning ? "mg-panning" : ""} ${brushing ? "" : "mg-aiming"}`}
      role="application"
      aria-label="Picture"
      data-view={`${view.x} ${view.y} ${view.scale}`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={cancel}
      onPointerLeave={() => setPointer(null)}
      onDoubleClick={(e) => {
        const bounds = box.current!.getBoundingClientRect();
        const [px, py] = [e.clientX - bounds.left, e.clientY - bounds.top];
        const [x, y] = toPicture(view, px, py);
        const beside = x < 0 || y < 0 || x > size.width || y > size.height;
        if (hand.panning || beside) toggleFit(px, py);
        else if (outlines(hand.mode, hand.fillBy) && useOutline.getState().nodes.length > 2) outlining.close();
      }}
    >
      <canvas ref={canvas} />
      <svg className="mg-overlay" aria-label="Touches" style={{ width: screen.width, height: screen.height }}>
        {!compare.held && (
          <>
            <ZoneLayer />
            <MarksLayer view={view} />
            <FacesLayer view={view} />
            <Rings
              still={["ease", "clip", "gradient", "pick", "press", "blend", "dodge_burn"].includes(hand.mode)}
              pass={ringPass}
              view={view}
              picked={pickedTouch}
              also={also}
              shown={hand.rings === "always"}
              near={hand.rings === "near" ? pointer : null}
              onGrab={grab}
            />
            {hand.chosen && TAKING.includes(hand.mode) && (
              <SourceCross at={stroke?.at(-1) ?? (pointer ? toPicture(view, pointer[0], pointer[1]) : null)} start={stroke?.[0] ?? null} />
            )}
            {OUTLINING.includes(hand.mode) && (
              <OutlineLayer
                view={view}
                shift={outlining.shift}
                pointer={pointer && toPicture(view, pointer[0], pointer[1])}
                onNode={outlining.onNode}
              />
            )}
            {stroke && <UnderWay mode={hand.mode} path={stroke} />}
            {/* A finished stroke keeps its trace, which isn't drawn anew. */}
            {[...pending, ...(stroke && brushing ? [{ key: strokeKey, path: stroke, radius: hand.radius }] : [])].map(
              (p) => {
                const points = p.path.map((q) => toScreen(view, q[0]!, q[1]!).join(","));
                return (
                  <polyline
                    key={p.key}
                    className="mg-under-way"
                    points={(points.length === 1 ? [points[0], points[0]] : points).join(" ")}
                    strokeWidth={2 * p.radius * view.scale}
                  />
                );
              },
            )}
          </>
        )}
        {hand.glass && !compare.held && (
          <GlassRim label={inLens.toLowerCase()} lens={hand.lens} screen={screen} onChange={(lens) => hand.set({ lens })} />
        )}
        {within && !hand.panning && !compare.held && brushing && (
          <g className="mg-brush" pointerEvents="none">
            <circle className="mg-brush-dark" cx={pointer[0]} cy={pointer[1]} r={radius} />
            <circle className="mg-brush-light" cx={pointer[0]} cy={pointer[1]} r={radius} />
            {hand.softness > 0 && (
              <circle
                className="mg-brush-soft"
                cx={pointer[0]}
                cy={pointer[1]}
                r={radius * (1 - hand.softness / 100)}
              />
            )}
          </g>
        )}
      </svg>
      <CompareLayer titleOf={titleOf} />
      <ChangeLegend />
    </div>
  );
});
