/** A drawn face, for one whose zones can't be drawn from the picture. */
import { memo } from "react";
import { FACE_LINES, FACE_SHAPES } from "./faceMapShapes";
import type { MapZone } from "./mapZones";

export const DrawnHead = memo(function DrawnHead({ zones }: { zones: readonly MapZone[] }) {
  return (
    <svg viewBox="0 0 120 152" role="group" aria-label="Zones of the face">
      {FACE_SHAPES.map(({ zone, path }) => {
        const one = zones.find((z) => z.zone === zone);
        return (
          <path
            key={zone}
            d={path}
            className={`mg-zone ${one ? one.className : "mg-zone-absent"}`}
            style={{ fillOpacity: one?.filled ? 0.25 + 0.6 * one.filled : 0.06 }}
            role="button"
            tabIndex={one ? 0 : -1}
            aria-label={one?.words ?? zone}
            onClick={one?.go}
            onKeyDown={(e) => e.key === "Enter" && one?.go()}
          >
            <title>{one?.words}</title>
          </path>
        );
      })}
      {FACE_LINES.map((d) => (
        <path key={d} d={d} className="mg-face-line" />
      ))}
      {zones.map(({ zone, marks, seen }) => {
        const at = LABELS[zone];
        return (
          at && (
            <g key={zone} className="mg-zone-label" aria-hidden="true">
              {marks > 0 && (
                <text x={at[0]} y={at[1]} className="mg-zone-marks">
                  {marks}
                </text>
              )}
              {seen && <path className="mg-zone-tick" d={`M${at[0] - 4} ${at[1] + 5} l2.4 2.4 l4.6 -5`} />}
            </g>
          )
        );
      })}
    </svg>
  );
});

const LABELS: Record<string, [number, number]> = {
  forehead: [60, 34],
  eyelids: [60, 55],
  under_eye_right: [39, 79],
  under_eye_left: [81, 79],
  nose: [60, 84],
  cheek_right: [33, 92],
  cheek_left: [87, 92],
  mouth_area: [60, 99],
  chin: [60, 123],
  jaw: [34, 112],
  ears: [15, 72],
  neck: [60, 139],
  other_skin: [86, 147],
};
