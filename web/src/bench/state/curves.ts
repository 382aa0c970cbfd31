/** Points of a curve, 0 to 1 both ways. */
export type CurvePoint = [number, number];

/** Points stay so far apart. */
const APART = 0.02;
const MOST = 32;

/** A point kept between its neighbours; the two ends keep to their sides. */
export function kept(points: readonly CurvePoint[], n: number, [x, y]: CurvePoint): CurvePoint {
  const low = n === 0 ? 0 : points[n - 1]![0] + APART;
  const high = n === points.length - 1 ? 1 : points[n + 1]![0] - APART;
  const unit = (v: number) => Math.min(Math.max(v, 0), 1);
  return [Math.round(Math.min(Math.max(x, low), high) * 1000) / 1000, Math.round(unit(y) * 1000) / 1000];
}

/** Where a new point goes, or null where another one is too near. */
export function placeFor(points: readonly CurvePoint[], x: number): number | null {
  if (points.length >= MOST || points.some((p) => Math.abs(p[0] - x) < APART)) return null;
  const n = points.findIndex((p) => p[0] > x);
  return n < 0 ? points.length : n;
}
