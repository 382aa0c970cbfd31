/** Where an arrow key takes the cross. Pure. */
import type { Point } from "../../api/client";

const [STEP, FAR, FINE] = [8, 48, 1];
/** So near to the border (px of the screen) the picture moves instead. */
const BORDER = 24;

const WAYS: Record<string, Point> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

export function crossStep([x, y]: Point, key: string, how: { far: boolean; fine: boolean }, screen: { width: number; height: number }): { at: Point; pan: Point } {
  const [dx, dy] = WAYS[key] ?? [0, 0];
  const step = how.fine ? FINE : how.far ? FAR : STEP;
  const inside = (v: number, most: number) => Math.min(Math.max(v, BORDER), most - BORDER);
  const [wx, wy] = [x + dx * step, y + dy * step];
  const at: Point = [inside(wx, screen.width), inside(wy, screen.height)];
  // What the cross doesn't go, the picture comes. Where it needn't, it stays at nought (not at minus nought).
  return { at, pan: [at[0] - wx || 0, at[1] - wy || 0] };
}
