/** Marks in numbers and words. Pure. */
import type { Point, Schemas } from "../../api/client";

type Mark = Schemas["MarkOut"];

const LEAST_CONFIDENCE = 0.05;

/** The marks that count at a sensitivity of 0..100, of one face or all. */
export function visibleMarks(marks: readonly Mark[], sensitivity: number, face?: number): Mark[] {
  const least = Math.max(1 - sensitivity / 100, LEAST_CONFIDENCE);
  // What the user decided about stays in sight, however faint it is.
  return marks.filter(
    (m) => (m.touch_id !== null || m.confidence >= least) && (face === undefined || m.face === face),
  );
}

export function inside(outline: readonly (readonly number[])[], x: number, y: number): boolean {
  let odd = false;
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) {
    const [xi = 0, yi = 0] = outline[i]!;
    const [xj = 0, yj = 0] = outline[j]!;
    if (yi > y !== yj > y && x < ((xj - xi) * (y - yi)) / (yj - yi) + xi) odd = !odd;
  }
  return odd;
}

export function sizedLabel(count: number, decision: string): string {
  return `${count === 1 ? "1 mark" : `${count} marks`}: ${decision}`;
}

/** Marks that the user wants to stay and that a stroke would cover. */
export function keptUnder(
  marks: readonly Mark[],
  path: readonly (readonly number[])[],
  radius: number,
): Mark[] {
  return marks.filter(
    (m) =>
      m.decision === "keep" &&
      m.touch_id !== null &&
      path.some((p) => Math.hypot(p[0]! - m.x, p[1]! - m.y) < radius),
  );
}

/** "4 mm" or "0.8 mm": two figures below ten. */
export function millimetres(px: number, pxPerMm: number): string {
  const mm = px / pxPerMm;
  return `${mm < 10 ? mm.toFixed(1) : Math.round(mm)} mm`;
}

/** Brush touches that heal marks: each covers its halo and a little more. */
export function healing(marks: readonly Mark[], softness: number) {
  return marks.map((m) => ({
    path: [[Math.round(m.x * 100) / 100, Math.round(m.y * 100) / 100] as Point],
    values: { radius_px: Math.max(2, Math.round(1.25 * m.reach * 2) / 2), softness, opacity: 100 },
  }));
}
