/** The band of detail that touches work in, and which passes fit it. */
import type { Pass } from "../../api/client";
import { useBench } from "./bench";
import { useFaces } from "./faces";
import { useHand, type Band } from "./hand";

export const BANDS: { name: Band; title: string; size: string }[] = [
  { name: "grain", title: "Fine grain", size: "below 0.2 mm" },
  { name: "pores", title: "Pores", size: "0.2 to 0.5 mm" },
  { name: "spots", title: "Spots", size: "0.5 to 1.5 mm" },
  { name: "bumps", title: "Bumps", size: "1.5 to 4 mm" },
  { name: "blotches", title: "Blotches", size: "4 to 12 mm" },
  { name: "light", title: "Light", size: "above 12 mm" },
];
export const PARTS: { name: Band; title: string; size: string }[] = [
  { name: "tone", title: "Tone", size: "what is larger than the dividing size" },
  { name: "detail", title: "Detail", size: "what is smaller than the dividing size" },
];

/** Kinds whose touches can work in a band. */
const BANDED = ["heal", "clone", "patch"];
/** Taken where no face tells what a millimetre is. */
const ASSUMED_PX_PER_MM = 8;

export function pxPerMm(): number {
  const { analysis, face } = useFaces.getState();
  return analysis?.faces[face]?.px_per_mm ?? ASSUMED_PX_PER_MM;
}

/** Settings that a pass for the next touch needs; null for kinds that know no bands. */
export function bandSettings(kind: string): Record<string, number | string> | null {
  const { band, divide } = useHand.getState();
  const px_per_mm = Math.round(Math.min(Math.max(pxPerMm(), 0.2), 300) * 10) / 10;
  if (kind === "blend") return { divide_mm: divide, px_per_mm };
  if (!BANDED.includes(kind) || band === "all") return null;
  return { band, divide_mm: divide, px_per_mm };
}

/** Whether a pass takes touches of a kind in the chosen band. */
export function fits(pass: Pass, kind: string, band: Band): boolean {
  const own = pass.settings["band"] ?? "all";
  return pass.kind === kind && pass.enabled && pass.stage_on && (!BANDED.includes(kind) || own === band);
}

/** The open pass if it is one for the next touch. */
export function passFor(kind: string): string | null {
  const { passes, openPass } = useBench.getState();
  const own = passes.find((p) => p.id === openPass);
  return own && fits(own, kind, useHand.getState().band) ? own.id : null;
}

/** How many touches work in each band. */
export function touchesIn(passes: readonly Pass[]): Record<string, number> {
  const counts: Record<string, number> = {};
  for (const pass of passes) {
    const band = pass.kind === "blend" ? "tone" : String(pass.settings["band"] ?? "all");
    counts[band] = (counts[band] ?? 0) + pass.touches.length;
  }
  return counts;
}
