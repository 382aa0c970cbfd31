/** The whole picture, straightened, with the frame on it to be dragged; what lies outside is dimmed. */
import { useEffect, useMemo, useRef, useState, type CSSProperties, type KeyboardEvent, type PointerEvent } from "react";
import type { Schemas } from "../../api/client";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { boxOf, ratioOf, useFraming } from "../state/framing";
import { useView } from "../state/view";
import { HANDLES, offLevel, resized, settingsOf, shifted, within, type Box, type Handle } from "./cropping";
import { inverse, moved, product, type Matrix } from "./frame";
import type { Size } from "./viewport";

const MARGIN = 56;
const LONG_SIDE = 1800;
const GRIP = 11;

/** From the plane to the picture as it is turned and mirrored. */
function seenFrom(turn: string, mirror: boolean): Matrix {
  let m: Matrix = [1, 0, 0, 0, 1, 0, 0, 0, 1];
  for (let n = 0; n < Number(turn) / 90; n++) m = product([0, -1, 0, 1, 0, 0, 0, 0, 1], m);
  return mirror ? product([-1, 0, 0, 0, 1, 0, 0, 0, 1], m) : m;
}

const corners = ([x0, y0, x1, y1]: Box): [number, number][] => [[x0, y0], [x1, y0], [x1, y1], [x0, y1]];

/** From the plane to the screen, so that the picture and its frame are seen whole. */
function fitted(made: Schemas["FramingOut"], seen: Matrix, picture: Size, screen: Size): Matrix {
  const back = inverse(made.plane);
  const ends = [
    ...corners([0, 0, picture.width, picture.height]).map(([x, y]) => moved(back, x, y)),
    ...corners(boxOf(made)),
  ].map(([x, y]) => moved(seen, x, y));
  const [xs, ys] = [ends.map((p) => p[0]), ends.map((p) => p[1])];
  const [x0, y0, x1, y1] = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  const k = Math.min((screen.width - 2 * MARGIN) / (x1 - x0), (screen.height - 2 * MARGIN) / (y1 - y0));
  const place: Matrix = [k, 0, screen.width / 2 - (k * (x0 + x1)) / 2, 0, k, screen.height / 2 - (k * (y0 + y1)) / 2, 0, 0, 1];
  return product(place, seen);
}

function css([a, b, c, d, e, f, g, h, i]: Matrix): CSSProperties {
  const all = [a, d, 0, g, b, e, 0, h, 0, 0, 1, 0, c, f, 0, i].map((v) => v! / i!);
  return { transform: `matrix3d(${all.join(",")})`, transformOrigin: "0 0" };
}

/** The picture without its frame; fetched anew only when something else than the frame changes. */
function usePictureUrl(): { url: string; scale: number } | null {
  const { portrait, passes, revision } = useBenchParts("portrait", "passes", "revision");
  const faces = useFaces((s) => s.analysis?.key ?? "");
  const others = passes.filter((p) => p.kind !== "frame");
  const [last, setLast] = useState({ others, revision });
  const same = others.length === last.others.length && others.every((p, n) => p === last.others[n]);
  if (!same) setLast({ others, revision });
  const at = last.revision;
  return useMemo(() => {
    if (!portrait) return null;
    const scale = Math.min(1, LONG_SIDE / Math.max(portrait.width, portrait.height));
    const [width, height] = [Math.floor(portrait.width * scale), Math.floor(portrait.height * scale)];
    const query = new URLSearchParams({ x: "0", y: "0", scale: String(scale), width: String(width), height: String(height) });
    // The server is asked for what is saved now; `at` only tells the browser's pictures apart.
    return { url: `/api/portraits/${portrait.id}/view?${query}&unframed=true&faces=${faces}&of=&number=0&window=frame-${at}`, scale };
  }, [portrait, faces, at]);
}

function HelpingLines({ box, toScreen }: { box: Box; toScreen: Matrix }) {
  const lines = useFraming((s) => s.lines);
  const faces = useFaces((s) => s.analysis?.faces);
  const made = useFraming((s) => s.made);
  if (lines === "none") return null;
  const [x0, y0, x1, y1] = box;
  const line = (key: string, ax: number, ay: number, bx: number, by: number) => {
    const [a, b] = [moved(toScreen, ax, ay), moved(toScreen, bx, by)];
    return <line key={key} x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} />;
  };
  if (lines === "eyes") {
    const eyes = faces?.[0]?.irises;
    if (!eyes || eyes.length < 2 || !made) return null;
    const back = inverse(made.plane);
    const [a, b] = [moved(back, eyes[0]![0]!, eyes[0]![1]!), moved(back, eyes[1]![0]!, eyes[1]![1]!)];
    const middle = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2] as const;
    return (
      <g className="mg-frame-lines" role="img" aria-label="Eye line">
        {line("e", x0, middle[1], x1, middle[1])}
        {line("m", middle[0], y0, middle[0], y1)}
      </g>
    );
  }
  const parts = lines === "thirds" ? [1 / 3, 2 / 3] : [0.5];
  return (
    <g className="mg-frame-lines" role="img" aria-label="Helping lines">
      {parts.map((p) => line(`x${p}`, x0 + p * (x1 - x0), y0, x0 + p * (x1 - x0), y1))}
      {parts.map((p) => line(`y${p}`, x0, y0 + p * (y1 - y0), x1, y0 + p * (y1 - y0)))}
    </g>
  );
}

export function FrameStage() {
  const framing = useFraming();
  const { made, settings, levelling, commit, leave } = framing;
  const { portrait } = useBenchParts("portrait");
  const screen = useView((s) => s.screen);
  const shown = usePictureUrl();
  /** The box under the hand, and where the picture stands while it is dragged. */
  const [held, setHeld] = useState<Box | null>(null);
  const [still, setStill] = useState<Matrix | null>(null);
  const [drawn, setDrawn] = useState<[number, number, number, number] | null>(null);
  const stage = useRef<HTMLDivElement>(null);

  useEffect(() => {
    const key = (event: globalThis.KeyboardEvent) => {
      const typing = event.target instanceof HTMLInputElement || event.target instanceof HTMLSelectElement;
      if (event.key === "Escape" || (event.key === "Enter" && !typing && !(event.target instanceof HTMLButtonElement))) {
        event.stopPropagation();
        if (event.key === "Escape" && useFraming.getState().levelling) useFraming.getState().set({ levelling: false });
        else leave();
      }
    };
    window.addEventListener("keydown", key, true);
    return () => window.removeEventListener("keydown", key, true);
  }, [leave]);

  if (!made || !portrait || !shown) return <div className="mg-frame-stage" role="application" aria-label="Frame" data-ready="false" />;
  const picture = { width: portrait.width, height: portrait.height };
  const seen = seenFrom(String(settings["turn"]), Boolean(settings["mirror"]));
  const toScreen = still ?? fitted(made, seen, picture, screen);
  const toPlane = inverse(toScreen);
  const box = held ?? boxOf(made);
  const free = settings["beyond"] !== "nothing";
  const ends = corners(box).map(([x, y]) => moved(toScreen, x, y));
  const outline = ends.map((p) => p.join(",")).join(" L");
  const ratio = ratioOf(framing);

  const local = (event: PointerEvent): [number, number] => {
    const bounds = stage.current!.getBoundingClientRect();
    return [event.clientX - bounds.left, event.clientY - bounds.top];
  };
  const finish = (now: Box) => {
    setHeld(null);
    setStill(null);
    commit(settingsOf(now, made.plane, picture));
  };
  const changed = (handle: Handle | null, from: Box, dx: number, dy: number): Box => {
    if (!handle) return shifted(from, dx, dy, made.plane, picture, free);
    const wanted = resized(from, handle, dx, dy, Number.isNaN(ratio) ? 0 : ratio);
    return free ? wanted : within(from, wanted, made.plane, picture);
  };
  /** Drag a handle, or the whole frame. */
  const take = (event: PointerEvent, handle: Handle | null) => {
    if (event.button !== 0 || levelling) return;
    event.stopPropagation();
    const target = event.currentTarget as Element & { onpointermove: unknown; onpointerup: unknown };
    target.setPointerCapture(event.pointerId);
    const from = boxOf(made);
    const start = moved(toPlane, ...local(event));
    setStill(toScreen);
    let now = from;
    const element = event.currentTarget as HTMLElement;
    element.onpointermove = (e) => {
      const at = moved(toPlane, ...local(e as unknown as PointerEvent));
      now = changed(handle, from, at[0] - start[0], at[1] - start[1]);
      setHeld(now);
    };
    element.onpointerup = element.onpointercancel = (e) => {
      element.onpointermove = element.onpointerup = element.onpointercancel = null;
      if (e.type === "pointerup" && now !== from) finish(now);
      else {
        setHeld(null);
        setStill(null);
      }
    };
  };
  const nudge = (event: KeyboardEvent, handle: Handle | null) => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!way) return;
    event.preventDefault();
    const k = event.shiftKey ? 10 : 1;
    const [ox, oy] = moved(inverse(seen), way[0]! * k, way[1]! * k);
    commit(settingsOf(changed(handle, boxOf(made), ox, oy), made.plane, picture), true);
  };
  const level = {
    onPointerDown: (event: PointerEvent) => {
      // What lies below is the picture, which the hand would work on.
      event.stopPropagation();
      if (!levelling || event.button !== 0) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      const [x, y] = local(event);
      setDrawn([x, y, x, y]);
    },
    onPointerMove: (event: PointerEvent) => {
      event.stopPropagation();
      if (drawn) setDrawn([drawn[0], drawn[1], ...local(event)]);
    },
    onPointerUp: (event: PointerEvent) => {
      event.stopPropagation();
      if (!drawn) return;
      const [x, y] = local(event);
      setDrawn(null);
      const [dx, dy] = [x - drawn[0], y - drawn[1]];
      if (Math.hypot(dx, dy) < 20) return;
      const off = offLevel(dx, dy) * (settings["mirror"] ? -1 : 1);
      const angle = Math.min(Math.max(Number(settings["angle_deg"]) - off, -45), 45);
      commit({ angle_deg: Math.round(angle * 100) / 100 });
      framing.set({ levelling: false });
    },
  };
  // From the small picture's pixels to the screen.
  const laid = product(product(toScreen, inverse(made.plane)), [1 / shown.scale, 0, 0, 0, 1 / shown.scale, 0, 0, 0, 1]);
  const turned = Number(settings["turn"]) % 180 !== 0;
  const [wide, tall] = [Math.round(box[2] - box[0]), Math.round(box[3] - box[1])];
  const size = turned ? `${tall} × ${wide}` : `${wide} × ${tall}`;
  return (
    <div
      ref={stage}
      className={`mg-frame-stage ${levelling ? "mg-frame-levelling" : ""}`}
      role="application"
      aria-label="Frame"
      data-ready="true"
      data-size={size}
      {...level}
      onDoubleClick={(e) => e.stopPropagation()}
    >
      <img src={shown.url} alt="" draggable={false} style={css(laid)} />
      <svg style={{ width: screen.width, height: screen.height }} aria-label="Frame on the picture">
        <path className="mg-frame-dim" fillRule="evenodd" d={`M0,0 H${screen.width} V${screen.height} H0 Z M${outline} Z`} />
        <HelpingLines box={box} toScreen={toScreen} />
        <path
          className="mg-frame-box"
          d={`M${outline} Z`}
          role="button"
          tabIndex={0}
          aria-label="Move the frame"
          onPointerDown={(e) => take(e, null)}
          onKeyDown={(e) => nudge(e, null)}
        />
        {HANDLES.map(({ at, words }) => {
          const x = at[0] < 0 ? box[0] : at[0] > 0 ? box[2] : (box[0] + box[2]) / 2;
          const y = at[1] < 0 ? box[1] : at[1] > 0 ? box[3] : (box[1] + box[3]) / 2;
          const [sx, sy] = moved(toScreen, x, y);
          return (
            <rect
              key={words}
              className="mg-frame-grip"
              role="button"
              tabIndex={0}
              aria-label={`Frame: ${words}`}
              x={sx - GRIP / 2}
              y={sy - GRIP / 2}
              width={GRIP}
              height={GRIP}
              rx={3}
              onPointerDown={(e) => take(e, at)}
              onKeyDown={(e) => nudge(e, at)}
            />
          );
        })}
        {drawn && <line className="mg-frame-level" x1={drawn[0]} y1={drawn[1]} x2={drawn[2]} y2={drawn[3]} />}
      </svg>
      <div className="mg-flag">{levelling ? "Draw along something that is level or upright" : `${size} px`}</div>
    </div>
  );
}
