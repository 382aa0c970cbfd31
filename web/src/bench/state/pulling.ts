/** Taking hold of parts of a face: which part is nearest, and what pulling it means. */
import { create } from "zustand";
import type { Point, Schemas } from "../../api/client";

/** A hold, and whose face it is of. */
export type Hold = Schemas["HoldOut"] & { face: number };
type Pull = Schemas["PullOut"];

/** A hold is meant from so many millimetres away. */
export const NEAR_MM = 9;

export interface Pulled {
  hold: Hold;
  pull: Pull;
  from: Point;
  to: Point;
  /** Of the number, in its unit. */
  amount: number;
}

interface PullingState {
  holds: readonly Hold[];
  /** What is being pulled. */
  now: Pulled | null;
  /** What was pulled last: a second press there takes the other side along. */
  last: Pulled | null;
  /** One works in Shape: lines that are kept straight are shown. */
  inShape: boolean;
  set: (part: Partial<Omit<PullingState, "set">>) => void;
}

export const usePulling = create<PullingState>((set) => ({ holds: [], now: null, last: null, inShape: false, set: (part) => set(part) }));

/** The nearest hold to a place of the original, near enough. */
export function nearest(holds: readonly Hold[], [x, y]: Point, pxPerMm: number): Hold | null {
  let best: Hold | null = null;
  let least = NEAR_MM * pxPerMm;
  for (const hold of holds) {
    const away = Math.hypot(hold.at[0] - x, hold.at[1] - y);
    if (away < least) [best, least] = [hold, away];
  }
  return best;
}

/** What a drag by (dx, dy) pixels of the original does: the number whose way it goes most. */
export function pulledBy(hold: Hold, dx: number, dy: number, pxPerMm: number): { pull: Pull; amount: number; along: number } | null {
  const ways = hold.pulls.map((pull) => ({ pull, along: (dx * pull.way[0] + dy * pull.way[1]) / pxPerMm }));
  const most = ways.sort((a, b) => Math.abs(b.along) - Math.abs(a.along))[0];
  return most ? { ...most, amount: Math.round(10 * most.along * most.pull.per_mm) / 10 } : null;
}

/** A hold in words. */
export function holdName(hold: Hold): string {
  return hold.side ? `${hold.title}, ${hold.side}` : hold.title;
}
