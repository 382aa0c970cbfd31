/** What is seen instead of the picture, changed together with what belongs to it. */
import { pxPerMm } from "./bands";
import { ORIGINAL, RESULT, useCompare, type Show } from "./compare";
import type { Band } from "./bandNames";
import { useHand } from "./hand";
import { useView } from "./view";

export type BandShow = "off" | "whole" | "glass";

/** Common practice for the radius between tone and detail: 5 to 6 px for a close-up, up to 10 for
 *  a very large one, 1 to 2 for a full figure. Our size is twice that radius (see retouch/bands). */
const RADIUS_PX = { least: 1.5, most: 10 };
/** 0.35 mm of the face is 5 to 6 px on a close-up with 16 px to the millimetre. */
const RADIUS_MM = 0.35;

/** A dividing size in mm that suits this face's scale. */
export function proposedDivide(scale = pxPerMm()): number {
  const radius = Math.min(Math.max(RADIUS_MM * scale, RADIUS_PX.least), RADIUS_PX.most);
  return Math.min(Math.max(Math.round((20 * radius) / scale) / 10, 0.1), 10);
}

export function bandShown(band: Band, instead: Show, inGlass: Show, glass: boolean): BandShow {
  if (band !== "all" && instead.show === "band") return "whole";
  return band !== "all" && glass && inGlass.show === "band" ? "glass" : "off";
}

export function showBand(band: Band, how: BandShow) {
  const show: Show = { show: "band", of: band };
  const { set } = useCompare.getState();
  set({ instead: how === "whole" ? show : RESULT, inGlass: how === "glass" ? show : ORIGINAL });
  if (how === "glass") useHand.getState().set({ glass: true });
}

/** Tone on the left, detail on the right, while the dividing size is set. */
export function seeBothParts() {
  const { mode, against, set } = useCompare.getState();
  if (mode === "side" && against.of === "detail") return set({ mode: "off", against: ORIGINAL, instead: RESULT });
  set({ mode: "side", instead: { show: "band", of: "tone" }, against: { show: "band", of: "detail" } });
}

/** Between the whole picture and the last close-up. */
export function backAndForth() {
  const { fitted, closeUp, fit, lookAgain } = useView.getState();
  if (fitted && closeUp) lookAgain(closeUp);
  else fit();
}
