/** Frames laid on a canvas as an arrangement says. */
import { ORIGINAL, RESULT, type Mode, type Show } from "../state/compare";
import type { Lens } from "../state/hand";
import type { Frame } from "./Frames";
import type { Size, View } from "./viewport";

/** How the pictures are arranged on the canvas. */
export interface Arrangement {
  /** Shown in place of the result. */
  instead: Show;
  held: Show | null;
  lens: Lens | null;
  inGlass: Show;
  compare: { mode: Mode; against: Show; upright: boolean; at: number; flickerMs: number };
  sizes: { px_per_mm: number; divide_mm: number };
}

export const PLAIN: Arrangement = {
  instead: RESULT,
  held: null,
  lens: null,
  inGlass: ORIGINAL,
  compare: { mode: "off", against: ORIGINAL, upright: true, at: 0.5, flickerMs: 700 },
  sizes: { px_per_mm: 8, divide_mm: 1 },
};

/** All that an arrangement shows somewhere besides the result. */
export function shownIn({ instead, held, lens, inGlass, compare }: Arrangement): Show[] {
  const all = [instead, held, lens && inGlass, compare.mode === "off" ? null : compare.against];
  return all.filter((s): s is Show => s !== null && s.show !== "result");
}

/** What is drawn on: a canvas of the ``box``, and one of its pictures of the size ``screen``, CSS pixels. */
export interface Stage {
  canvas: HTMLCanvasElement;
  box: Size;
  screen: Size;
  ratio: number;
  view: View;
  picture: Size;
}

type Layers = (show: Show) => (Frame | null | undefined)[];

function place(context: CanvasRenderingContext2D, { view, ratio }: Stage, { grid, canvas }: Frame) {
  const k = view.scale * ratio;
  const zoom = k / grid.scale;
  context.imageSmoothingEnabled = zoom < 4;
  context.imageSmoothingQuality = zoom < 1 ? "high" : "medium";
  let x = (grid.x - view.x) * k;
  let y = (grid.y - view.y) * k;
  if (Math.abs(zoom - 1) < 1e-9) [x, y] = [Math.round(x), Math.round(y)];
  context.drawImage(canvas, x, y, canvas.width * zoom, canvas.height * zoom);
}

/** One picture with its corner at (`left`, `top`), CSS pixels; `over` draws inside of it. */
function pane(context: CanvasRenderingContext2D, stage: Stage, left: number, top: number, over: () => void) {
  const { picture, view, ratio, screen } = stage;
  const k = view.scale * ratio;
  context.save();
  context.translate(Math.round(left * ratio), Math.round(top * ratio));
  context.beginPath();
  context.rect(0, 0, screen.width * ratio, screen.height * ratio);
  context.clip();
  context.beginPath();
  context.rect(-view.x * k, -view.y * k, picture.width * k, picture.height * k);
  context.clip();
  over();
  context.restore();
}

/** Draw it all; `layers` gives the frames of something shown, the coarse ones first. */
export function drawAll(stage: Stage, arranged: Arrangement, flicked: boolean, layers: Layers) {
  const { canvas, box, screen, ratio } = stage;
  const context = canvas.getContext("2d")!;
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.clearRect(0, 0, canvas.width, canvas.height);
  const draw = (show: Show) => {
    for (const frame of layers(show)) if (frame) place(context, stage, frame);
  };
  const { instead, held, lens, inGlass, compare } = arranged;
  const { mode, against, upright, at } = compare;
  pane(context, stage, 0, 0, () => {
    draw(held ?? (mode === "flicker" && flicked ? against : instead));
    if (held) return;
    if (mode === "wipe") {
      const [w, h] = [screen.width * ratio, screen.height * ratio];
      context.beginPath();
      if (upright) context.rect(at * w, 0, w, h);
      else context.rect(0, at * h, w, h);
      context.save();
      context.clip();
      draw(against);
      context.restore();
    }
    if (lens) {
      context.beginPath();
      context.arc(lens.x * ratio, lens.y * ratio, lens.radius * ratio, 0, 2 * Math.PI);
      context.clip();
      draw(inGlass);
    }
  });
  const second = held ?? against;
  if (mode === "side") pane(context, stage, box.width - screen.width, 0, () => draw(second));
  if (mode === "stack") pane(context, stage, 0, box.height - screen.height, () => draw(second));
}
