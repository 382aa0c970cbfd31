/** Where pictures come from: the one place that knows their addresses. */
import { fetchPicture, type Operation } from "../../api/client";
import type { Show } from "../state/compare";
import type { Grid } from "./viewport";

export interface Sizes {
  px_per_mm: number;
  divide_mm: number;
}

/** The state that a picture is wanted of: its revision, and the analysis of the faces that is known. */
export interface State {
  revision: number;
  faces: string;
}

/** Gives the pixels of a portrait; the painter knows nothing else of the server. */
export interface Pictures {
  /** Pixels of a saved state; older requests of the same ``series`` are given up. */
  view: (grid: Grid, show: Show, state: State, sizes: Sizes, series: string | null, signal: AbortSignal) => Promise<ImageBitmap>;
  /** The portrait as it stands, small, if it is at hand. */
  small: () => Promise<ImageBitmap>;
  /** Pixels with operations that aren't saved yet; only the newest is computed. */
  draft: (grid: Grid, show: Show, state: State, sizes: Sizes, operations: Operation[]) => Promise<ImageBitmap>;
}

/** Views that don't change when passes do. */
export const STILL = ["original", "take", "step"];

let windowName = "";
/** Counts requests of this window on, whoever paints: lower numbers than before would be given up. */
let number = 0;

/** A name for this window, so that the server can drop its older requests. */
export function ownWindow(): string {
  windowName ||= crypto.randomUUID();
  return windowName;
}

/** The pictures of a portrait in a frame (its key) as the bench sees them, asked for by a window. */
export function pictures(id: string, windowName: string, frame: string): Pictures {
  const base = `/api/portraits/${id}`;
  return {
    view: (grid, { show, of }, { revision, faces }, sizes, series, signal) => {
      const { x, y, scale, width, height } = grid;
      const query = new URLSearchParams(
        Object.entries({ x, y, scale, width, height, show, of }).map(([k, v]) => [k, String(v)]),
      );
      if (!STILL.includes(show)) query.set("revision", String(revision));
      if (show !== "original") query.set("faces", faces);
      query.set("frame", frame);
      if (show === "band") for (const [name, value] of Object.entries(sizes)) query.set(name, String(value));
      // Parts and the picture behind are small and always wanted; only whole views can be overtaken.
      if (series) {
        query.set("window", `${windowName}-${series}`);
        query.set("number", String(++number));
      }
      return fetchPicture(`${base}/view?${query}`, signal);
    },
    small: () => fetchPicture(`${base}/thumbnail?side=after&at_hand=true`, new AbortController().signal),
    draft: (grid, show, { revision }, sizes, operations) =>
      fetchPicture(`${base}/draft`, new AbortController().signal, {
        ...grid,
        ...show,
        ...sizes,
        operations,
        revision,
        window: `${windowName}-draft`,
        number: ++number,
      }),
  };
}
