/** The map: the portrait, small, with what was done and what is left in each zone, and a way to go there. */
import { memo, useState } from "react";
import { Button } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { Progress } from "../../ui/Progress";
import { around, backOf } from "../canvas/frame";
import { seen } from "../canvas/viewport";
import { hint } from "../keys";
import { useFaces } from "../state/faces";
import { useSweep } from "../state/sweep";
import { useView } from "../state/view";
import { DrawnHead } from "./DrawnHead";
import { MAPPED, useMapZones, zoneAt, type MapZone } from "./mapZones";
import { PortraitMap } from "./PortraitMap";

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

export const FaceMap = memo(function FaceMap() {
  const { analysis, face, problem, again } = useFaces();
  const { view, screen, picture } = useView();
  const sweep = useSweep();
  const [whole, setWhole] = useState(false);
  const places = (analysis?.places ?? []).filter((p) => p.face === face);
  const box = analysis?.faces[face]?.box ?? null;
  const part = seen(view, picture, screen);
  const [bx = 0, by = 0, bw = 0, bh = 0] = box ?? [];
  const [x0, y0, x1, y1] = around(view.frame, [bx, by, bx + bw, by + bh]);
  const allSeen = part.x0 <= x0 && part.y0 <= y0 && part.x1 >= x1 && part.y1 >= y1;
  const middle = backOf(view.frame, (part.x0 + part.x1) / 2, (part.y0 + part.y1) / 2);
  const current = allSeen ? null : zoneAt(places, ...middle);
  const zones = useMapZones(current);
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
            <Progress now={Math.max(3, analysis.share * 100)} label="Looking at the faces" />
          </>
        )}
      </section>
    );
  if (analysis.faces.length === 0)
    return (
      <section className="mg-facemap" aria-label="Face map">
        <PortraitMap zones={NO_ZONES} box={null} />
        <p className="mg-hint">No face was found. Everything by hand works; a face can be added under Look.</p>
      </section>
    );
  const swept = places.filter((p) => MAPPED.has(p.zone));
  const done = swept.filter((p) => analysis.seen.includes(`${face}-${p.zone}`)).length;
  const drawable = zones.some((z) => z.place.outlines.length > 0);
  return (
    <section className="mg-facemap" aria-label="Face map">
      <FaceChoice />
      {drawable ? (
        <>
          <PortraitMap zones={zones} box={whole ? null : box} />
          <Button variant="quiet" size="sm" className="mg-map-whole" aria-pressed={whole} onClick={() => setWhole(!whole)}>
            {whole ? "Face" : "Whole picture"}
          </Button>
        </>
      ) : (
        <DrawnHead zones={zones} />
      )}
      <p className="mg-facts" aria-live="polite">
        {zones.find((z) => z.zone === current)?.words ?? (allSeen ? "Whole face" : "Beside the face")}
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
const NO_ZONES: readonly MapZone[] = [];
