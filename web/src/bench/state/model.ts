/** The edit in the browser: changes from the server applied to the list of passes. Pure. */
import type { Change, Pass, Touch } from "../../api/client";

export function applyChanges(passes: readonly Pass[], changes: readonly Change[]): Pass[] {
  const out = [...passes];
  for (const change of changes) {
    const at = out.findIndex((p) => p.id === change.pass_id);
    if (change.what === "pass") {
      const { touches, strokes } = out[at] ?? { touches: [], strokes: 0 };
      if (at >= 0) out.splice(at, 1);
      if (change.after) out.splice(change.index, 0, { ...change.after, touches, strokes } as Pass);
      continue;
    }
    const owner = out[at];
    if (!owner) continue;
    if (change.what === "strokes") {
      out[at] = { ...owner, strokes: change.index + change.after.length };
      continue;
    }
    const touches = owner.touches.filter((t) => t.id !== change.id);
    if (change.after) touches.splice(change.index, 0, change.after);
    out[at] = { ...owner, touches };
  }
  return out;
}

export function findTouch(
  passes: readonly Pass[],
  id: string | null,
): { pass: Pass; touch: Touch } | null {
  if (!id) return null;
  for (const pass of passes) {
    const touch = pass.touches.find((t) => t.id === id);
    if (touch) return { pass, touch };
  }
  return null;
}

/** Whether a touch is the inside of its path rather than a stroke along it. */
export function isOutline(touch: Touch): boolean {
  return touch.values["shape"] === "outline" || touch.values["radius_px"] === undefined;
}

/** Radius of a brush's touch; of an outline, half its larger side. */
export function radiusOf(touch: Touch): number {
  if (isOutline(touch)) {
    const xs = touch.path.map((p) => p[0]!);
    const ys = touch.path.map((p) => p[1]!);
    return Math.round(Math.max(Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys))) / 2;
  }
  return Number(touch.values["radius_px"] ?? 20);
}

/** The rectangle a touch can change, with a little room. */
export function extent(touch: Touch): [number, number, number, number] {
  const r = (isOutline(touch) ? 2 : radiusOf(touch)) + 2;
  const xs = touch.path.map((p) => p[0]!);
  const ys = touch.path.map((p) => p[1]!);
  return [Math.min(...xs) - r, Math.min(...ys) - r, Math.max(...xs) + r, Math.max(...ys) + r];
}

export function union(
  a: readonly number[],
  b: readonly number[],
): [number, number, number, number] {
  return [
    Math.min(a[0]!, b[0]!),
    Math.min(a[1]!, b[1]!),
    Math.max(a[2]!, b[2]!),
    Math.max(a[3]!, b[3]!),
  ];
}

/** Blend modes, with their words. */
export const BLENDS: Record<Pass["blend"], string> = {
  normal: "Normal",
  multiply: "Multiply",
  screen: "Screen",
  darken: "Darken",
  lighten: "Lighten",
  "soft-light": "Soft light",
  hue: "Hue",
  saturation: "Saturation",
  colour: "Colour",
  luminosity: "Luminosity",
};
