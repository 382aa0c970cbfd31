/** The tone strip along the picture: black below, white above, and where this person lies between. */
import { useEffect, useRef, useState, type RefObject } from "react";
import { useBench, useBenchParts } from "../state/bench";
import { useKinds } from "../state/kinds";
import { BINS, useReadTones, useTones } from "../state/tones";
import type { Painter } from "../canvas/Painter";
import type { Operation } from "../../api/client";

const KIND = "tone";
/** Where one range passes into the next, 0 black and 1 white; the middles are `look/tone.py`'s. */
const ENDS = [0, 0.22, 0.48, 0.76, 1];
/** Amount per screen pixel that a range is dragged. */
const PER_PX = 0.6;
const WIDTH = 58;
const COLOURS = ["", "rgb(196 87 74 / 55%)", "rgb(70 140 90 / 50%)", "rgb(70 110 190 / 50%)"];
const PART_WORDS: Record<string, string> = { face: "Face", hair: "Hair", clothing: "Clothes", background: "Behind" };

/** Whose amounts the strip sets: the topmost tone pass. */
function useTonePass() {
  const { passes } = useBenchParts("passes");
  return passes.findLast((p) => p.kind === KIND) ?? null;
}

export function ToneStrip({ painterRef }: { painterRef: RefObject<Painter | null> }) {
  const histogram = useTones((s) => s.histogram);
  const want = useTones((s) => s.want);
  const read = useReadTones();
  const pass = useTonePass();
  const kind = useKinds().data?.find((k) => k.name === KIND);
  const [draft, setDraft] = useState<Record<string, number>>({});
  const box = useRef<HTMLDivElement>(null);
  const [height, setHeight] = useState(400);

  useEffect(() => {
    want(true);
    return () => want(false);
  }, [want]);
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setHeight(element.clientHeight));
    observer.observe(element);
    return () => observer.disconnect();
  }, [kind]);
  if (!kind) return null;

  const valueOf = (name: string) => draft[name] ?? Number(pass?.settings[name] ?? 0);
  // Whether there is a pass yet is for the studio to say: keys are pressed faster than answers come.
  const operation = (name: string, value: number): Operation =>
    pass ? { op: "change_pass", id: pass.id, settings: { [name]: value } } : { op: "set_tones", settings: { [name]: value } };
  const tidy = (v: number) => Math.round(Math.min(Math.max(v, -100), 100));
  const show = (name: string, value: number) => {
    setDraft((d) => ({ ...d, [name]: value }));
    painterRef.current?.showDraft([operation(name, value)], null);
  };
  const commit = (name: string, value: number, goesOn = false) => {
    setDraft((d) => ({ ...d, [name]: value }));
    useBench.getState().gesture(
      operation(name, value),
      (outcome) => {
        // A newer value that is still on its way stays shown.
        setDraft((d) => (d[name] === value ? Object.fromEntries(Object.entries(d).filter(([n]) => n !== name)) : d));
        if (!outcome) painterRef.current?.endDraft();
      },
      goesOn,
    );
  };
  const take = (event: React.PointerEvent<SVGElement>, name: string) => {
    if (event.button !== 0) return;
    const target = event.currentTarget;
    target.setPointerCapture(event.pointerId);
    const [from, start] = [event.clientY, valueOf(name)];
    let now = start;
    target.onpointermove = (e) => {
      now = tidy(start + (from - e.clientY) * PER_PX);
      show(name, now);
    };
    target.onpointerup = target.onpointercancel = () => {
      target.onpointermove = target.onpointerup = target.onpointercancel = null;
      if (now !== start) commit(name, now);
    };
  };
  const key = (event: React.KeyboardEvent, name: string) => {
    const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 10, PageDown: -10 }[event.key];
    if (!by) return;
    event.preventDefault();
    commit(name, tidy(valueOf(name) + by * (event.shiftKey ? 10 : 1)), true);
  };
  const y = (tone: number) => height * (1 - tone);
  const line = (counts: number[]) =>
    `M0,${height} ${counts.map((n, k) => `L${(n * WIDTH).toFixed(1)},${y((k + 0.5) / BINS).toFixed(1)}`).join(" ")} L0,0 Z`;
  const percent = (part: number) => (part > 0.0005 ? `${(100 * part).toFixed(part < 0.01 ? 1 : 0)} %` : "");

  return (
    <div className="mg-tones" role="group" aria-label="Tones" ref={box}>
      <svg width={150} height={height} aria-label="Tones of what is on the screen">
        <rect className="mg-tones-ground" width={WIDTH} height={height} rx={6} />
        {histogram?.counts.map((c, k) => (
          <path key={k} d={line(c)} className={k ? "mg-tones-channel" : "mg-tones-light"} style={k ? { fill: COLOURS[k] } : undefined} />
        ))}
        {kind.settings.map((s, n) => {
          const [low, high] = [ENDS[n]!, ENDS[n + 1]!];
          const value = valueOf(s.name);
          const [top, bottom] = [y(high), y(low)];
          const middle = (top + bottom) / 2;
          const shift = -(value / 100) * 0.42 * (bottom - top);
          return (
            <g key={s.name} className={value ? "mg-tones-set" : undefined}>
              <rect
                className="mg-tones-range"
                x={0}
                y={top}
                width={WIDTH}
                height={bottom - top}
                role="slider"
                tabIndex={0}
                aria-label={s.title}
                aria-orientation="vertical"
                aria-valuemin={-100}
                aria-valuemax={100}
                aria-valuenow={value}
                onPointerDown={(e) => take(e, s.name)}
                onDoubleClick={() => commit(s.name, 0)}
                onKeyDown={(e) => key(e, s.name)}
              >
                <title>{`${s.title}: ${s.meaning} Drag up or down; double-click for 0`}</title>
              </rect>
              {n > 0 && <line className="mg-tones-end" x1={0} x2={WIDTH} y1={bottom} y2={bottom} />}
              {value !== 0 && <line className="mg-tones-way" x1={8} x2={8} y1={middle} y2={middle + shift} />}
              <line className="mg-tones-grip" x1={3} x2={WIDTH - 3} y1={middle + shift} y2={middle + shift} />
              <text className="mg-tones-word" x={WIDTH - 4} y={middle + shift - 4} textAnchor="end">
                {value ? `${s.title} ${value > 0 ? "+" : ""}${value}` : s.title}
              </text>
            </g>
          );
        })}
        {read.data?.spreads.map((s, n) => (
          <g key={s.part} className="mg-tones-part" role="img" aria-label={`${PART_WORDS[s.part] ?? s.part}: from ${Math.round(s.low * 100)} to ${Math.round(s.high * 100)}`}>
            <line x1={WIDTH + 7 + n * 9} x2={WIDTH + 7 + n * 9} y1={y(s.low)} y2={y(s.high)} />
            <circle cx={WIDTH + 7 + n * 9} cy={y(s.middle)} r={3} />
            {/* By turns above and below, so that neighbours don't cover each other. */}
            <text transform={n % 2 ? `translate(${WIDTH + 5 + n * 9} ${y(s.low) + 11}) rotate(60)` : `translate(${WIDTH + 10 + n * 9} ${y(s.high) - 5}) rotate(-60)`}>{PART_WORDS[s.part] ?? s.part}</text>
          </g>
        ))}
        {histogram && (
          <>
            <text className="mg-tones-clip" x={2} y={11}>
              {percent(histogram.lost)}
            </text>
            <text className="mg-tones-clip" x={2} y={height - 4}>
              {percent(histogram.closed)}
            </text>
          </>
        )}
      </svg>
    </div>
  );
}
