/** The sweep: a walk over all skin of every face, so that nothing is missed. */
import { create } from "zustand";
import { around, backOf } from "../canvas/frame";
import { useFaces, type Place } from "./faces";
import { useView } from "./view";

const ORDER = [
  "forehead", "eyelids", "under_eye_right", "under_eye_left", "nose", "cheek_right", "cheek_left",
  "ears", "mouth_area", "chin", "jaw", "neck", "other_skin",
];
/** Neighbouring stops of one zone share this part of the view. */
const OVERLAP = 0.12;

export interface Stop {
  key: string;
  zone: string;
  face: number;
  x: number;
  y: number;
  last: boolean;
}

/** The stops of all zones: as many as it takes to see a zone whole at that scale. */
export function stopsOf(places: readonly Place[], width: number, height: number): Stop[] {
  const out: Stop[] = [];
  const faces = [...new Set(places.map((p) => p.face))].sort((a, b) => a - b);
  for (const face of faces)
    for (const zone of ORDER) {
      const place = places.find((p) => p.face === face && p.zone === zone);
      if (!place) continue;
      const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = place.rect;
      const many = (size: number, seen: number) => Math.max(1, Math.ceil(size / (seen * (1 - OVERLAP))));
      const [nx, ny] = [many(x1 - x0, width), many(y1 - y0, height)];
      for (let i = 0; i < ny; i++)
        for (let k = 0; k < nx; k++) {
          // Back and forth, like reading a field.
          const j = i % 2 ? nx - 1 - k : k;
          out.push({
            key: `${face}-${zone}`,
            zone,
            face,
            x: x0 + ((j + 0.5) * (x1 - x0)) / nx,
            y: y0 + ((i + 0.5) * (y1 - y0)) / ny,
            last: i === ny - 1 && k === nx - 1,
          });
        }
    }
  return out;
}

interface SweepState {
  active: boolean;
  at: number;
  stops: Stop[];
  scale: number;
  step: (by: 1 | -1) => void;
  end: () => void;
}

export const useSweep = create<SweepState>((set, get) => {
  const go = (at: number, stops: Stop[], scale: number) => {
    const stop = stops[at]!;
    const view = useView.getState();
    if (Math.abs(view.view.scale - scale) > 1e-6) view.zoomTo(scale);
    useView.getState().centre(stop.x, stop.y);
    useFaces.getState().set({ face: stop.face });
    set({ active: true, at, stops, scale });
  };
  return {
    active: false,
    at: 0,
    stops: [],
    scale: 1,
    step: (by) => {
      const { active, at, stops } = get();
      const { analysis, markSeen } = useFaces.getState();
      if (!analysis?.places.length) return;
      const { view, screen } = useView.getState();
      if (!active) {
        // Begin, or go on, at the first zone that hasn't been seen.
        const scale = 1 / (window.devicePixelRatio || 1);
        // Zones as they lie in the frame; the stops are places of the original, whatever comes.
        const framed = analysis.places.map((p) => ({ ...p, rect: around(view.frame, p.rect) }));
        const fresh = stopsOf(framed, screen.width / scale, screen.height / scale).map((s) => {
          const [x, y] = backOf(view.frame, s.x, s.y);
          return { ...s, x, y };
        });
        const next = fresh.findIndex((s) => !analysis.seen.includes(s.key));
        if (fresh.length) go(Math.max(next, 0), fresh, scale);
        return;
      }
      const here = stops[at]!;
      if (by > 0 && here.last) markSeen([here.key]);
      if (at + by >= stops.length) return set({ active: false });
      // A zoom chosen on the way stays.
      go(Math.max(at + by, 0), stops, view.scale);
    },
    end: () => set({ active: false }),
  };
});
