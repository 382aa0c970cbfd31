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

/** The middle of where a touch takes from. */
export function sourceMiddle(touch: Touch): [number, number] {
  const xs = touch.path.map((p) => p[0]!);
  const ys = touch.path.map((p) => p[1]!);
  const [sx, sy] = touch.source ?? [0, 0];
  return [(Math.min(...xs) + Math.max(...xs)) / 2 + sx!, (Math.min(...ys) + Math.max(...ys)) / 2 + sy!];
}

const HANDLE_PX = 22;

/** How far from the source's middle its handle stands at its own size, pixels of the original. */
export function handleReach(touch: Touch, scale: number): number {
  return radiusOf(touch) + HANDLE_PX / scale;
}

/** Turn (degrees clockwise, half degrees) and size (per cent) of a source whose handle is at a place. */
export function turnedTo(touch: Touch, scale: number, x: number, y: number) {
  const [mx, my] = sourceMiddle(touch);
  const degrees = (Math.atan2(y - my, x - mx) * 180) / Math.PI + 90;
  const size = (100 * Math.hypot(x - mx, y - my)) / handleReach(touch, scale);
  return {
    source_turn: Math.round(2 * (((degrees + 540) % 360) - 180)) / 2,
    // Near its own size it stays there: most sources are only turned.
    source_size: Math.abs(size - 100) < 6 ? 100 : Math.round(Math.min(Math.max(size, 25), 400)),
  };
}
