/** Where tones lie: of what is on the screen, from its own pixels, and of the parts of the person. */
import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { client, unwrapAs, type Schemas } from "../../api/client";
import { useSettled } from "../../ui/useSettled";
import { useBenchParts } from "./bench";
import { useFaces } from "./faces";

export const BINS = 96;
const SETTLE_MS = 500;

export interface Histogram {
  /** How often each value is there, 0..1 of the most frequent: light, red, green, blue. */
  counts: number[][];
  /** Parts of all pixels, 0..1, of which a channel ends at white or at black. */
  lost: number;
  closed: number;
}

/** The histogram of pixels (RGBA bytes); places without a picture don't count. */
export function histogramOf(data: ArrayLike<number>): Histogram {
  const counts = [0, 1, 2, 3].map(() => new Array<number>(BINS).fill(0));
  let [all, lost, closed] = [0, 0, 0];
  for (let i = 0; i + 3 < data.length; i += 4) {
    if (data[i + 3] !== 255) continue;
    const [r, g, b] = [data[i]!, data[i + 1]!, data[i + 2]!];
    all += 1;
    if (r === 255 || g === 255 || b === 255) lost += 1;
    else if (r === 0 || g === 0 || b === 0) closed += 1;
    const light = 0.2126 * r + 0.7152 * g + 0.0722 * b;
    [light, r, g, b].forEach((v, k) => (counts[k]![Math.min(BINS - 1, Math.floor((v / 256) * BINS))]! += 1));
  }
  // Ends may hold a spike; the rest has to be seen beside it.
  const most = Math.max(1, ...counts[0]!.slice(1, -1), 0.3 * Math.max(counts[0]![0]!, counts[0]!.at(-1)!));
  return {
    counts: counts.map((c) => c.map((n) => Math.min(n / most, 1))),
    lost: lost / Math.max(all, 1),
    closed: closed / Math.max(all, 1),
  };
}

interface TonesState {
  /** Whether anybody looks: else nothing is counted. */
  wanted: boolean;
  histogram: Histogram | null;
  want: (wanted: boolean) => void;
  /** The canvas shows something new. */
  painted: (canvas: HTMLCanvasElement) => void;
}

const WIDTH = 240;
const EVERY_MS = 80;
let small: CanvasRenderingContext2D | null = null;
let timer = 0;
let latest: HTMLCanvasElement | null = null;

export const useTones = create<TonesState>((set, get) => ({
  wanted: false,
  histogram: null,
  want: (wanted) => {
    set({ wanted });
    if (latest) get().painted(latest);
  },
  painted: (canvas) => {
    latest = canvas;
    if (!get().wanted || timer) return;
    timer = window.setTimeout(() => {
      timer = 0;
      small ??= document.createElement("canvas").getContext("2d", { willReadFrequently: true });
      if (!small || !canvas.width) return;
      const height = Math.max(1, Math.round((WIDTH * canvas.height) / canvas.width));
      [small.canvas.width, small.canvas.height] = [WIDTH, height];
      // Pixels as they are, none mixed: what is clipped stays so.
      small.imageSmoothingEnabled = false;
      small.drawImage(canvas, 0, 0, WIDTH, height);
      set({ histogram: histogramOf(small.getImageData(0, 0, WIDTH, height).data) });
    }, EVERY_MS);
  },
}));

/** The readings of the saved state, once it has settled. */
export function useReadTones() {
  const { portrait, revision } = useBenchParts("portrait", "revision");
  const faces = useFaces((s) => s.analysis?.key ?? "");
  const at = useSettled(revision, SETTLE_MS);
  return useQuery({
    queryKey: ["tones", portrait?.id, at, faces],
    queryFn: () =>
      unwrapAs<Schemas["TonesOut"]>(
        client.GET("/api/portraits/{portrait_id}/tones", { params: { path: { portrait_id: portrait!.id } } }),
      ),
    enabled: portrait !== null && faces !== "",
    placeholderData: (before) => before,
  });
}
