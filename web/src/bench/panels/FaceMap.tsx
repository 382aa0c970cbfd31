/** A small drawn face: what has been touched where, open marks, and a way to go there. */
import { memo, useMemo } from "react";
import { Button, ProgressBar } from "react-bootstrap";
import type { Schemas } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { around, backOf } from "../canvas/frame";
import { seen } from "../canvas/viewport";
import { hint } from "../keys";
import { useFaces, type Mark, type Place } from "../state/faces";
import { visibleMarks } from "../state/marks";
import { useSweep } from "../state/sweep";
import { useView } from "../state/view";
import { beyond, inWords, useLimits, useReadings } from "../state/natural";
import { useZones } from "../state/zones";
import { FACE_LINES, FACE_SHAPES } from "./faceMapShapes";

/** The zone that the middle of the view lies in: the smallest of those around it. */
function inView(places: readonly Place[], x: number, y: number): string | null {
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
const MAPPED = new Set(FACE_SHAPES.map((s) => s.zone));

function FaceChoice() {
  const { analysis, face, id, set } = useFaces();
  const { picture, view } = useView();
  if (!analysis || analysis.faces.length < 2) return null;
  return (
    <div className="mg-face-choice" role="group" aria-label="Faces">
      {analysis.faces.map((f) => {
        const [left = 0, top = 0, wide = 1, high = 1] = f.box;
        const [x, y, right, bottom] = around(view.frame, [left, top, left + wide, top + high]);
        const [w, h] = [right - x, bottom - y];
        const side = Math.max(w, h) * 1.35;
        const k = 36 / side;
        return (
          <button
            key={f.number}
            type="button"
            aria-pressed={face === f.number}
            aria-label={f.title}
            title={f.title}
            onClick={() => set({ face: f.number })}
            style={{
              backgroundImage: `url(/api/portraits/${id}/view?x=0&y=0&scale=${Math.min(1, 900 / Math.max(picture.width, picture.height))}&width=${Math.round(picture.width * Math.min(1, 900 / Math.max(picture.width, picture.height)))}&height=${Math.round(picture.height * Math.min(1, 900 / Math.max(picture.width, picture.height)))}&show=original&frame=${view.frame?.key ?? ""})`,
              backgroundSize: `${picture.width * k}px ${picture.height * k}px`,
              backgroundPosition: `${-(x + w / 2 - side / 2) * k}px ${-(y + h / 2 - side / 2) * k}px`,
            }}
          />
        );
      })}
    </div>
  );
}

type Reading = Schemas["ReadingOut"];
const NONE: readonly Reading[] = [];

interface DrawingProps {
  places: readonly Place[];
  open: readonly Mark[];
  seen: readonly string[];
  face: number;
  current: string | null;
  readings: readonly Reading[];
}

/** The drawing alone: it changes more rarely than the view does. */
const Drawing = memo(function Drawing({ places, open, seen: ticks, face, current, readings }: DrawingProps) {
  const zones = useZones();
  const limits = useLimits();
  const title = (zone: string) => zones.data?.find((z) => z.name === zone)?.title ?? zone;
  return (
    <svg viewBox="0 0 120 152" role="group" aria-label="Zones of the face">
      {FACE_SHAPES.map(({ zone, path }) => {
        const place = places.find((p) => p.zone === zone);
        const marks = open.filter((m) => m.zone === zone).length;
        const reading = readings.find((r) => r.zone === zone);
        const words = [
          title(zone),
          place?.touches ? `${place.touches} touched` : null,
          marks ? `${marks} open ${marks === 1 ? "mark" : "marks"}` : null,
          ticks.includes(`${face}-${zone}`) ? "seen" : null,
          reading ? inWords(reading) : null,
        ].filter(Boolean);
        const go = () => place && useView.getState().show(place.rect);
        return (
          <path
            key={zone}
            d={path}
            className={[
              "mg-zone",
              place ? "" : "mg-zone-absent",
              current === zone ? "mg-zone-here" : "",
              reading && beyond(reading, limits) ? "mg-zone-beyond" : "",
            ].join(" ")}
            style={{
              fillOpacity: place?.touches
                ? 0.25 + 0.6 * Math.min(1, place.strength * (0.4 + 0.15 * place.touches))
                : 0.06,
            }}
            role="button"
            tabIndex={place ? 0 : -1}
            aria-label={words.join(", ")}
            onClick={go}
            onKeyDown={(e) => e.key === "Enter" && go()}
          >
            <title>{words.join(", ")}</title>
          </path>
        );
      })}
      {FACE_LINES.map((d) => (
        <path key={d} d={d} className="mg-face-line" />
      ))}
      {FACE_SHAPES.map(({ zone }) => {
        const at = LABELS[zone];
        const marks = open.filter((m) => m.zone === zone).length;
        return (
          at && (
            <g key={zone} className="mg-zone-label" aria-hidden="true">
              {marks > 0 && (
                <text x={at[0]} y={at[1]} className="mg-zone-marks">
                  {marks}
                </text>
              )}
              {ticks.includes(`${face}-${zone}`) && (
                <path className="mg-zone-tick" d={`M${at[0] - 4} ${at[1] + 5} l2.4 2.4 l4.6 -5`} />
              )}
            </g>
          )
        );
      })}
    </svg>
  );
});

export const FaceMap = memo(function FaceMap() {
  const { analysis, face, sensitivity, problem, again } = useFaces();
  const { view, screen, picture } = useView();
  const sweep = useSweep();
  const zones = useZones();
  const wanted = useLimits((s) => s.reading);
  const readings = useReadings();
  const places = useMemo(
    () => (analysis?.places ?? []).filter((p) => p.face === face),
    [analysis?.places, face],
  );
  const open = useMemo(
    () =>
      visibleMarks(analysis?.marks ?? [], sensitivity, face).filter(
        (m) => !m.cleared && m.decision !== "keep",
      ),
    [analysis?.marks, sensitivity, face],
  );
  if (!analysis)
    return <p className="mg-hint">{problem ?? "Looking at the portrait…"}</p>;
  if (analysis.state !== "done")
    return (
      <section className="mg-facemap" aria-label="Face map">
        {analysis.state === "failed" ? (
          <>
            <p className="mg-hint">{analysis.doing}</p>
            <Button variant="quiet" onClick={() => void again()}>
              Look again
            </Button>
          </>
        ) : (
          <>
            <p className="mg-hint">{analysis.doing || "Waiting to look at the faces"}…</p>
            <ProgressBar now={Math.max(3, analysis.share * 100)} aria-label="Looking at the faces" />
          </>
        )}
      </section>
    );
  if (analysis.faces.length === 0)
    return (
      <section className="mg-facemap" aria-label="Face map">
        <p className="mg-hint">
          No face was found. Everything by hand works; a face can be added under Look.
        </p>
      </section>
    );
  const part = seen(view, picture, screen);
  const [bx = 0, by = 0, bw = 0, bh = 0] = analysis.faces[face]?.box ?? [];
  const [x0, y0, x1, y1] = around(view.frame, [bx, by, bx + bw, by + bh]);
  const whole = part.x0 <= x0 && part.y0 <= y0 && part.x1 >= x1 && part.y1 >= y1;
  const current = whole
    ? null
    : inView(places, ...backOf(view.frame, (part.x0 + part.x1) / 2, (part.y0 + part.y1) / 2));
  const swept = FACE_SHAPES.filter((s) => places.some((p) => p.zone === s.zone));
  const done = swept.filter((s) => analysis.seen.includes(`${face}-${s.zone}`)).length;
  const title = zones.data?.find((z) => z.name === current)?.title;
  const here = wanted ? readings.data?.find((r) => r.zone === current) : undefined;
  return (
    <section className="mg-facemap" aria-label="Face map">
      <FaceChoice />
      <Drawing places={places} open={open} seen={analysis.seen} face={face} current={current} readings={(wanted && readings.data) || NONE} />
      <p className="mg-facts" aria-live="polite">
        {title ?? (whole ? "Whole face" : "Beside the face")}
        {here && <small> {inWords(here)}</small>}
      </p>
      <Button
        variant="quiet"
        className="mg-sweep"
        active={sweep.active}
        title={hint("sweepOn", "Walk over all skin, one to one")}
        onClick={() => sweep.step(1)}
      >
        <Icon name="signpost-split" /> Sweep
        <small>
          {done} of {swept.length}
        </small>
      </Button>
    </section>
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
