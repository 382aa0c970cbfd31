/** Faces: what was found, how sure the scale is, and corrections by hand. */
import { Button } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand, type Mode } from "../state/hand";
import { useView } from "../state/view";

const HANDS: { mode: Mode; title: string; icon: string; how: string }[] = [
  { mode: "face", title: "Add a face", icon: "bounding-box", how: "Drag a box around a face; over one that is there, it is fitted again" },
  { mode: "iris", title: "Measure an iris", icon: "bullseye", how: "Press in the middle of the iris and drag to its rim" },
  { mode: "nudge", title: "Nudge points", icon: "arrows-move", how: "Drag an eye, brow, lip or the jaw to where it is" },
];

export function FacesCard() {
  const { analysis, face, set, again } = useFaces();
  const { passes, gesture } = useBenchParts("passes", "gesture");
  const hand = useHand();
  const { show } = useView();
  if (!analysis) return null;
  const corrections = passes.filter((p) => p.kind === "faces").flatMap((p) => p.touches);
  const active = HANDS.find((h) => h.mode === hand.mode);
  return (
    <section className="mg-card mg-card-open" aria-label="Faces">
      <div className="mg-card-head">
        <span className="mg-card-name">
          Faces <small>{analysis.state === "done" ? analysis.faces.length : "…"}</small>
        </span>
        <Button variant="quiet" title="Look at the whole portrait again" onClick={() => void again()}>
          Look again
        </Button>
      </div>
      <div className="mg-card-body">
        <ul className="mg-face-list">
          {analysis.faces.map((f) => {
            const [x = 0, y = 0, w = 0, h = 0] = f.box;
            return (
              <li key={f.number} className={f.number === face ? "mg-touch-picked" : ""}>
                <button
                  type="button"
                  onClick={() => {
                    set({ face: f.number });
                    show([x, y, x + w, y + h]);
                  }}
                >
                  <b>{f.title}</b>
                  <span>
                    {f.px_per_mm.toFixed(2)} px/mm ± {Math.round(f.uncertainty * 100)} %
                    {f.scale_source === "hand" ? ", by hand" : ""}
                  </span>
                  <span className={f.plausible ? "" : "mg-warn"}>
                    pupils {Math.round(f.pupils_mm)} mm apart{f.plausible ? "" : ": check the iris"}
                  </span>
                  <span>
                    turned {Math.round(f.yaw)}°, down {Math.round(f.pitch)}°, tilted {Math.round(f.roll)}°
                  </span>
                  {f.doubts.map((doubt) => (
                    <span key={doubt} className="mg-warn">
                      {doubt}
                    </span>
                  ))}
                </button>
                <Button
                  variant="quiet"
                  aria-label={`${f.title} is no face`}
                  title="This is no face"
                  onClick={() =>
                    gesture(
                      {
                        op: "add_touch",
                        kind: "faces",
                        touch: { path: [[x + w / 2, y + h / 2]], values: { what: "none" } },
                      },
                      () => void useFaces.getState().refresh(),
                    )
                  }
                >
                  <Icon name="x" />
                </Button>
              </li>
            );
          })}
        </ul>
        {analysis.missed.length > 0 && (
          <p className="mg-hint mg-warn">
            In {analysis.missed.length === 1 ? "one box" : `${analysis.missed.length} boxes`} that you drew no
            face could be fitted. Draw it a little larger, or smaller.
          </p>
        )}
        <div className="mg-hands">
          {HANDS.map((h) => (
            <Button
              key={h.mode}
              variant="tray"
              active={hand.mode === h.mode}
              aria-pressed={hand.mode === h.mode}
              title={h.how}
              onClick={() => hand.set({ mode: hand.mode === h.mode ? "heal" : h.mode })}
            >
              <Icon name={h.icon} /> {h.title}
            </Button>
          ))}
        </div>
        {active && <p className="mg-hint">{active.how}.</p>}
        {corrections.length > 0 && (
          <Button
            variant="tray"
            onClick={() =>
              gesture(
                { op: "remove_touches", ids: corrections.map((t) => t.id), label: "Faces as found" },
                () => void useFaces.getState().refresh(),
              )
            }
          >
            <Icon name="arrow-counterclockwise" /> Take back {corrections.length}{" "}
            {corrections.length === 1 ? "correction" : "corrections"}
          </Button>
        )}
      </div>
    </section>
  );
}
