/** Marks: how many are seen, what is to become of them, and clearing them. */
import { useState } from "react";
import { Button, ButtonGroup, Form } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import { useBench, useBenchParts } from "../state/bench";
import { useFaces, type Decision, type Mark } from "../state/faces";
import { useHand } from "../state/hand";
import { healing, millimetres, visibleMarks } from "../state/marks";
import { useView } from "../state/view";
import { useZones } from "../state/zones";
import { SessionMarks } from "./SessionMarks";
import { useSeen } from "../state/seen";

const DECISIONS: { name: Decision; title: string; icon: string }[] = [
  { name: "clear", title: "Clear", icon: "hand-heal" },
  { name: "ask", title: "Ask", icon: "question-circle" },
  { name: "keep", title: "Keep", icon: "shield-check" },
];
const KINDS: Record<Mark["kind"], string> = { red: "Red", dark: "Dark", light: "Light", raised: "Raised" };
const MOST_LISTED = 120;

export function MarksCard() {
  const { analysis, face, sensitivity, marksShown, selected, set, decide } = useFaces();
  const { gesture } = useBenchParts("gesture");
  const hand = useHand();
  const zones = useZones();
  const seenOn = useSeen();
  const [kind, setKind] = useState("");
  const [zone, setZone] = useState("");
  const [which, setWhich] = useState<Decision | "">("");
  const [working, setWorking] = useState(false);
  if (!analysis || analysis.state !== "done" || analysis.faces.length === 0) return null;
  const seen = visibleMarks(analysis.marks, sensitivity, face);
  const chosen = seen.filter(
    (m) =>
      (kind === "" || m.kind === kind) &&
      (zone === "" || m.zone === zone) &&
      (which === "" || m.decision === which) &&
      (selected.length === 0 || selected.includes(m.id)),
  );
  const toClear = chosen.filter((m) => m.decision === "clear" && !m.cleared);
  const title = (name: string) => zones.data?.find((z) => z.name === name)?.title ?? name;
  const pxPerMm = analysis.faces[face]?.px_per_mm ?? 1;
  const clear = () => {
    setWorking(true);
    gesture(
      {
        op: "add_touches",
        kind: "heal",
        touches: healing(toClear, hand.softness),
        label: toClear.length === 1 ? "Clear 1 mark" : `Clear ${toClear.length} marks`,
      },
      (outcome) => {
        setWorking(false);
        const added = outcome?.changes.find((c) => c.what === "touch");
        if (added) useBench.getState().open(added.pass_id);
        void useFaces.getState().refresh();
      },
    );
  };
  const go = (mark: Mark) => {
    useView.getState().zoomTo(1 / (window.devicePixelRatio || 1));
    useView.getState().centre(mark.x, mark.y);
    set({ selected: [mark.id], marksShown: true });
  };
  return (
    <section className={`mg-card ${marksShown ? "mg-card-open" : ""}`} aria-label="Marks">
      <div className="mg-card-head">
        <Form.Check
          type="switch"
          role="switch"
          aria-label="Show marks"
          title="Show marks in the picture"
          checked={marksShown}
          onChange={(e) => set({ marksShown: e.target.checked, selected: [] })}
        />
        <button
          type="button"
          className="mg-card-name"
          aria-expanded={marksShown}
          onClick={() => set({ marksShown: !marksShown, selected: [] })}
        >
          Marks <small>{seen.length}</small>
        </button>
      </div>
      {marksShown && (
        <div className="mg-card-body">
          <SessionMarks />
          <Slider
            label="Sensitivity"
            title="How faint a mark may be"
            min={0}
            max={95}
            initial={50}
            value={sensitivity}
            onInput={(v) => set({ sensitivity: v })}
          />
          <div className="mg-counts" role="group" aria-label="Show by decision">
            {DECISIONS.map((d) => (
              <Button
                key={d.name}
                variant="tray"
                active={which === d.name}
                aria-pressed={which === d.name}
                onClick={() => setWhich(which === d.name ? "" : d.name)}
              >
                {d.title} {seen.filter((m) => m.decision === d.name).length}
              </Button>
            ))}
          </div>
          <div className="mg-pair">
            <Form.Select size="sm" aria-label="Kind" value={kind} onChange={(e) => setKind(e.target.value)}>
              <option value="">All kinds</option>
              {Object.entries(KINDS).map(([name, text]) => (
                <option key={name} value={name}>
                  {text}
                </option>
              ))}
            </Form.Select>
            <Form.Select size="sm" aria-label="Zone of marks" value={zone} onChange={(e) => setZone(e.target.value)}>
              <option value="">All zones</option>
              {[...new Set(seen.map((m) => m.zone))].map((name) => (
                <option key={name} value={name}>
                  {title(name)}
                </option>
              ))}
            </Form.Select>
          </div>
          <div className="mg-pair">
            <Button
              variant="tray"
              active={hand.mode === "lasso"}
              aria-pressed={hand.mode === "lasso"}
              title="Draw around marks in the picture to choose them"
              onClick={() => hand.set({ mode: hand.mode === "lasso" ? "heal" : "lasso" })}
            >
              <Icon name="hand-around" /> Lasso
            </Button>
            {selected.length > 0 && (
              <Button variant="tray" onClick={() => set({ selected: [] })}>
                {selected.length} chosen <Icon name="x" />
              </Button>
            )}
          </div>
          <ButtonGroup size="sm" aria-label={`Decide about ${chosen.length} marks`}>
            {DECISIONS.map((d) => (
              <Button
                key={d.name}
                variant="outline"
                title={`${d.title}: the ${chosen.length} listed below`}
                disabled={chosen.length === 0}
                onClick={() => decide(chosen, d.name)}
              >
                <Icon name={d.icon} /> {d.title}
              </Button>
            ))}
          </ButtonGroup>
          <Button disabled={toClear.length === 0 || working} onClick={clear}>
            {working ? "Clearing…" : `Clear these ${toClear.length}`}
          </Button>
          <ol className="mg-touches mg-marks" aria-label="List of marks">
            {chosen.slice(0, MOST_LISTED).map((m) => (
              <li key={m.id} className={selected.includes(m.id) ? "mg-touch-picked" : ""}>
                <button type="button" onClick={() => go(m)} title={`${title(m.zone)}, ${Math.round(m.confidence * 100)} % sure${seenOn.has(m.id) ? `, seen on ${seenOn.get(m.id)!.seen_on + 1} of ${seenOn.get(m.id)!.of + 1} pictures` : ""}`}>
                  <span className={`mg-mark-dot mg-mark-${m.kind}`} aria-hidden="true" />
                  {KINDS[m.kind]}
                  <small>
                    {millimetres(2 * m.radius, pxPerMm)}
                    {seenOn.get(m.id) && ` · ${seenOn.get(m.id)!.seen_on + 1} of ${seenOn.get(m.id)!.of + 1}`}
                  </small>
                </button>
                {m.cleared ? (
                  <span className="mg-cleared">cleared</span>
                ) : (
                  <Form.Select
                    size="sm"
                    aria-label={`Decision about ${KINDS[m.kind].toLowerCase()} mark ${m.id}`}
                    value={m.decision}
                    onChange={(e) => decide([m], e.target.value as Decision)}
                  >
                    {DECISIONS.map((d) => (
                      <option key={d.name} value={d.name}>
                        {d.title}
                      </option>
                    ))}
                  </Form.Select>
                )}
              </li>
            ))}
          </ol>
          {chosen.length > MOST_LISTED && (
            <p className="mg-hint">The {MOST_LISTED} surest of {chosen.length} are listed.</p>
          )}
        </div>
      )}
    </section>
  );
}
