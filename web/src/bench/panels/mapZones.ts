/** What the map tells of each zone of the face in hand. */
import { useMemo } from "react";
import { useCheck, zonesOf } from "../state/check";
import { useFaces, type Place } from "../state/faces";
import { visibleMarks } from "../state/marks";
import { beyond, inWords, useLimits, useReadings } from "../state/natural";
import { useView } from "../state/view";
import { useZones } from "../state/zones";

export interface MapZone {
  zone: string;
  place: Place;
  words: string;
  className: string;
  /** How much was done in it, 0..1. */
  filled: number;
  marks: number;
  seen: boolean;
  go: () => void;
}

export function useMapZones(current: string | null): readonly MapZone[] {
  const { analysis, face, sensitivity } = useFaces();
  const zones = useZones();
  const limits = useLimits();
  const readings = useReadings();
  const { check } = useCheck();
  return useMemo(() => {
    const open = visibleMarks(analysis?.marks ?? [], sensitivity, face).filter((m) => !m.cleared && m.decision !== "keep");
    const found = zonesOf(check.data ?? [], face);
    return (analysis?.places ?? [])
      .filter((p) => p.face === face && MAPPED.has(p.zone))
      .map((place): MapZone => {
        const { zone } = place;
        const marks = open.filter((m) => m.zone === zone).length;
        const seen = analysis!.seen.includes(`${face}-${zone}`);
        const reading = limits.reading ? readings.data?.find((r) => r.zone === zone) : undefined;
        const unnatural = found.get(zone) ?? false;
        const words = [
          zones.data?.find((z) => z.name === zone)?.title ?? zone,
          place.touches ? `${place.touches} touched` : null,
          marks ? `${marks} open ${marks === 1 ? "mark" : "marks"}` : null,
          seen ? "seen" : null,
          reading ? inWords(reading) : null,
          unnatural ? "beyond a limit" : null,
        ].filter(Boolean);
        return {
          zone,
          place,
          words: words.join(", "),
          className: [current === zone ? "mg-zone-here" : "", unnatural || (reading && beyond(reading, limits)) ? "mg-zone-beyond" : "", found.has(zone) && !unnatural ? "mg-zone-within" : ""].join(" "),
          filled: place.touches ? Math.min(1, place.strength * (0.4 + 0.15 * place.touches)) : 0,
          marks,
          seen,
          go: () => useView.getState().show(place.rect),
        };
      });
  }, [analysis, face, sensitivity, zones.data, limits, readings.data, check.data, current]);
}

/** Zones that a map shows; others are too small, or no skin. */
export const MAPPED: ReadonlySet<string> = new Set([
  "neck", "other_skin", "ears", "forehead", "eyelids", "under_eye_right", "under_eye_left", "nose", "cheek_right", "cheek_left",
  "mouth_area", "chin", "jaw",
]);

/** The zone that a place lies in: the smallest of those around it. */
export function zoneAt(places: readonly Place[], x: number, y: number): string | null {
  let best: string | null = null;
  let least = Infinity;
  for (const p of places) {
    const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = p.rect;
    const size = (x1 - x0) * (y1 - y0);
    if (x < x0 || x > x1 || y < y0 || y > y1 || size >= least || !MAPPED.has(p.zone)) continue;
    [best, least] = [p.zone, size];
  }
  return best;
}
