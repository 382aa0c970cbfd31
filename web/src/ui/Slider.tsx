import { useEffect, useId, useRef, useState } from "react";
import { beganOver } from "./wheeling";

interface Props {
  label: string;
  value: number;
  min: number;
  max: number;
  step?: number;
  unit?: string;
  title?: string;
  initial?: number;
  /** While it moves. */
  onInput: (value: number) => void;
  /** When it is let go; ``goesOn``: by a key or the wheel, which go step by step. */
  onCommit?: (value: number, goesOn?: boolean) => void;
  /** Positions of the slider for values, for uneven scales. */
  curve?: { to: (value: number) => number; from: (position: number) => number };
  disabled?: boolean;
  /** The setting that it sets, for finding it. */
  name?: string;
}

const LINEAR = { to: (v: number) => v, from: (p: number) => p };

/** A slider with its number beside it: typed, stepped by arrows and wheel, double-click for the default. */
export function Slider({
  label, value, min, max, step = 1, unit, title, initial, onInput, onCommit, curve = LINEAR, disabled, name,
}: Props) {
  const id = useId();
  const [text, setText] = useState<string | null>(null);
  const tidy = (v: number) => {
    const stepped = Math.round(v / step) * step;
    return Math.min(Math.max(Number(stepped.toFixed(4)), min), max);
  };
  const commit = (v: number, goesOn = false) => (onCommit ?? onInput)(tidy(v), goesOn);
  const type = () => {
    const typed = Number(text?.replace(",", "."));
    if (text !== null && text.trim() !== "" && Number.isFinite(typed)) commit(typed);
    setText(null);
  };
  const [low, high] = [curve.to(min), curve.to(max)];
  const part = ((curve.to(value) - low) / (high - low)) * 100;
  // The wheel steps the value; React's own listener couldn't keep the panel from scrolling.
  const row = useRef<HTMLDivElement>(null);
  const latest = useRef({ value, commit, step });
  useEffect(() => {
    latest.current = { value, commit, step };
  });
  useEffect(() => {
    const element = row.current!;
    const turn = (event: WheelEvent) => {
      if (disabled || event.ctrlKey || event.altKey || event.deltaY === 0 || !beganOver(element)) return;
      event.preventDefault();
      const now = latest.current;
      now.commit(now.value - Math.sign(event.deltaY) * now.step * (event.shiftKey ? 10 : 1), true);
    };
    element.addEventListener("wheel", turn, { passive: false });
    return () => element.removeEventListener("wheel", turn);
  }, [disabled]);
  return (
    <div className="mg-slider" title={title} ref={row} data-setting={name}>
      <label
        htmlFor={id}
        onDoubleClick={() => initial !== undefined && commit(initial)}
      >
        {label}
      </label>
      <input
        id={id}
        type="range"
        disabled={disabled}
        min={low}
        max={high}
        step={curve === LINEAR ? step : (high - low) / 400}
        value={curve.to(value)}
        aria-valuetext={`${value}${unit ? ` ${unit}` : ""}`}
        style={{ "--mg-part": `${part}%` } as React.CSSProperties}
        onChange={(e) => onInput(tidy(curve.from(Number(e.target.value))))}
        onPointerUp={() => onCommit?.(value)}
        onKeyUp={(e) => /Arrow|Page|Home|End/.test(e.key) && onCommit?.(value, true)}
      />
      <span className="mg-number">
        <input
          aria-label={`${label}, number`}
          inputMode="decimal"
          disabled={disabled}
          value={text ?? String(value)}
          onFocus={(e) => e.target.select()}
          onChange={(e) => setText(e.target.value)}
          onBlur={type}
          onKeyDown={(e) => {
            if (e.key === "Enter") type();
            if (e.key === "Escape") setText(null);
            if (e.key === "ArrowUp" || e.key === "ArrowDown") {
              e.preventDefault();
              commit(value + (e.key === "ArrowUp" ? step : -step) * (e.shiftKey ? 10 : 1), true);
            }
          }}
        />
        {unit && <span aria-hidden="true">{unit}</span>}
      </span>
    </div>
  );
}
