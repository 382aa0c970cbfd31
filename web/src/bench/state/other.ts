/** Another portrait that is borrowed from, laid over this one. */
import { create } from "zustand";
import type { Point, Schemas } from "../../api/client";

export type LaidOver = Schemas["LaidOverOut"];

interface OtherState {
  /** The other portrait; null: none is chosen. */
  id: string | null;
  /** Its picture stands beside this one. */
  shown: boolean;
  laid: LaidOver | null;
  set: (part: Partial<Pick<OtherState, "id" | "shown" | "laid">>) => void;
}

export const useOther = create<OtherState>((set) => ({ id: null, shown: false, laid: null, set: (part) => set(part) }));

/** A place through a plain map of two rows. */
export function through(map: readonly (readonly number[])[], [x, y]: Point): Point {
  const row = (r: readonly number[]) => r[0]! * x + r[1]! * y + r[2]!;
  return [row(map[0]!), row(map[1]!)];
}
