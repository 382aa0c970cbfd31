/** What is being drawn over the picture: the gesture under way, traces that wait for their pixels. */
import { create } from "zustand";
import type { Point, Touch } from "../../api/client";

/** A brush's trace; it keeps its key when it is finished, so that it isn't drawn anew. */
export interface Trace {
  key: number;
  path: readonly Point[];
  radius: number;
}

interface DrawnState {
  /** The path of a gesture that doesn't paint: a box, a lasso, a shift. */
  path: readonly Point[] | null;
  traces: readonly Trace[];
  /** The touch that is being dragged, as it is now. */
  held: Touch | null;
  /** Where a closed outline is dragged to. */
  shift: Point | null;
  /** The pointer, CSS pixels of the picture; null outside. */
  pointer: Point | null;
}

export const useDrawn = create<DrawnState>(() => ({ path: null, traces: [], held: null, shift: null, pointer: null }));

let keys = 0;

/** Begin a trace; its key. */
export function beginTrace(path: readonly Point[], radius: number): number {
  const key = ++keys;
  useDrawn.setState((s) => ({ traces: [...s.traces, { key, path, radius }] }));
  return key;
}

export function changeTrace(key: number, part: Partial<Trace>) {
  useDrawn.setState((s) => ({ traces: s.traces.map((t) => (t.key === key ? { ...t, ...part } : t)) }));
}

export function endTrace(key: number) {
  useDrawn.setState((s) => ({ traces: s.traces.filter((t) => t.key !== key) }));
}

/** A trace stays until its pixels are there. */
export function seen(key: number, painted: Promise<void>) {
  void painted.finally(() => endTrace(key));
}

/** Nothing is under way any more: another portrait. */
export function forgetDrawn() {
  useDrawn.setState({ path: null, traces: [], held: null, shift: null });
}
