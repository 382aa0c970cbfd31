/** Strands of hair on the picture: which is meant by a place, and whether they are shown. */
import { create } from "zustand";
import type { Point } from "../../api/client";

export const useStrands = create<{ shown: boolean; setShown: (shown: boolean) => void }>((set) => ({
  shown: true,
  setShown: (shown) => set({ shown }),
}));

interface Strand {
  id: string;
  path: readonly (readonly number[])[];
}

/** The strand nearest to a place, within so many pixels of the original; null: none. */
export function nearestStrand<S extends Strand>(strands: readonly S[], [x, y]: Point, within: number): S | null {
  let best: S | null = null;
  let least = within;
  for (const strand of strands)
    for (let n = 0; n < strand.path.length; n++) {
      const [ax, ay] = strand.path[Math.max(n - 1, 0)] as [number, number];
      const [bx, by] = strand.path[n] as [number, number];
      const [dx, dy] = [bx - ax, by - ay];
      const long = dx * dx + dy * dy;
      const part = long > 0 ? Math.min(Math.max(((x - ax) * dx + (y - ay) * dy) / long, 0), 1) : 0;
      const away = Math.hypot(ax + part * dx - x, ay + part * dy - y);
      if (away < least) [best, least] = [strand, away];
    }
  return best;
}
