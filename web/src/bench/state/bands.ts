/** The band of detail that touches work in, and which passes fit it. */
import type { Pass } from "../../api/client";
import { useBench } from "./bench";
import { useFaces } from "./faces";
import { kindNamed } from "./kinds";
import type { Band } from "./bandNames";
import { useHand } from "./hand";

/** Taken where no face tells what a millimetre is. */
const ASSUMED_PX_PER_MM = 8;

export function pxPerMm(): number {
  const { analysis, face } = useFaces.getState();
  return analysis?.faces[face]?.px_per_mm ?? ASSUMED_PX_PER_MM;
}

/** What a kind of pass declares of bands: whether its touches can work in one, or divide tones. */
function declared(kind: string): { banded: boolean; divides: boolean } {
  const settings = kindNamed(kind)?.settings ?? [];
  return { banded: settings.some((s) => s.name === "band"), divides: settings.some((s) => s.name === "divide_mm") };
}

/** Settings that a pass for the next touch needs; null for kinds that know no bands. */
export function bandSettings(kind: string): Record<string, number | string> | null {
  const { band, divide } = useHand.getState();
  const { banded, divides } = declared(kind);
  if (divides && !banded) return { divide_mm: divide };
  return banded && band !== "all" ? { band, divide_mm: divide } : null;
}

/** Whether a pass takes touches of a kind in the chosen band. */
export function fits(pass: Pass, kind: string, band: Band): boolean {
  const own = pass.settings["band"] ?? "all";
  return pass.kind === kind && pass.enabled && pass.stage_on && (!declared(kind).banded || own === band);
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
    const { banded, divides } = declared(pass.kind);
    const band = divides && !banded ? "tone" : String(pass.settings["band"] ?? "all");
    counts[band] = (counts[band] ?? 0) + pass.touches.length;
  }
  return counts;
}
