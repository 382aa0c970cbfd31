/** One click: a routine's passes, fitted to the face; each can be changed afterwards. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { client, unwrap, type Area, type Face, type Operation } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { useRoutines, type Routine } from "../../runs/runs";
import { Icon } from "../../ui/Icon";
import { useSettled } from "../../ui/useSettled";
import { Slider } from "../../ui/Slider";
import { useBench } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";
import { LearnDialog } from "./LearnDialog";

const SAMPLES_MS = 2500;

/** The neck and the rest of the skin brought to the face's own colour. */
function neckToFace(face: Face | null): Operation {
  const areas: Area[] = (["neck", "other_skin"] as const).map((zone) => ({ kind: "zone", way: "add", zone, face, side: "both", share: 100, invert: false }));
  return {
    op: "add_pass",
    kind: "even_colour",
    name: "Neck to face",
    settings: { hue: 80, saturation: 70, lightness: 35, variety: 1, size_mm: 12 },
    areas,
    face,
  };
}

/** Where a routine is offered: one's own stand beside those for skin. */
function here(one: Routine, stage: "even" | "features"): boolean {
  return !one.glasses && (one.own ? stage === "even" : one.stage === stage);
}

export function RoutinesCard({ stage }: { stage: "even" | "features" }) {
  const gesture = useBench((s) => s.gesture);
  const { analysis, face } = useFaces();
  const { mode, set } = useHand();
  const [working, setWorking] = useState(false);
  const [where, setWhere] = useState("skin");
  const [who, setWho] = useState("all");
  const [sure, setSure] = useState("60");
  const [bright, setBright] = useState(false);
  const [strength, setStrength] = useState(100);
  const [learning, setLearning] = useState(false);
  // The one that the hand is near: what it will do is told before it acts.
  const [near, setNear] = useState<string | null>(null);
  const routines = useRoutines();
  const id = useBench((s) => s.portrait?.id) ?? "";
  // Samples follow when the hand rests, so that they never delay the picture.
  const settled = useSettled(useBench((s) => s.revision), SAMPLES_MS);
  const told = useQuery({
    queryKey: ["foreseen", id, near, analysis?.key],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/routines/{name}/foreseen", { params: { path: { portrait_id: id, name: near! } } })),
    enabled: near !== null && id !== "",
  });
  const missing = (told.data ?? []).filter((f) => !f.acts);
  const count = analysis?.faces.length ?? 0;
  if (count === 0) return null;
  const person = count > 1 && who === "one" ? (analysis?.faces[face]?.anchor ?? null) : null;
  const apply = (one: Routine) => {
    setWorking(true);
    const how = { face: person, only_face: where === "face", bright, strength: strength < 100 ? strength : null };
    const which = one.own
      ? { name: "", own: one.routine as NonNullable<Extract<Operation, { op: "apply_routine" }>["own"]>, spots_from: null }
      : { name: one.name, spots_from: stage === "even" ? Number(sure) : null };
    gesture({ op: "apply_routine", ...how, ...which }, () => {
      setWorking(false);
      void useFaces.getState().refresh();
    });
  };
  return (
    <section className="mg-card" aria-label="Routines">
      <div className="mg-card-head">
        <span className="mg-card-name">Routine</span>
      </div>
      <div className="mg-card-body mg-row">
        <div className="mg-samples">
          {routines.data?.filter((r) => here(r, stage)).map((r) => (
            <button
              key={r.name}
              type="button"
              className="mg-sample"
              data-routine={r.name}
              disabled={working}
              title={r.meaning}
              onPointerEnter={() => setNear(r.name)}
              onFocus={() => setNear(r.name)}
              onClick={() => apply(r)}
            >
              <img loading="lazy" alt="" src={`/api/portraits/${id}/routines/${r.name}/sample?revision=${settled}`} />
              {r.title}
            </button>
          ))}
        </div>
        {near !== null && told.data && (
          <p className="mg-hint mg-foreseen" aria-live="polite">
            {told.data.filter((f) => f.acts).map((f) => f.title).join(", ")}
            {missing.length > 0 && `. Left out: ${missing.map((f) => `${f.title.toLowerCase()} (${f.why})`).join(", ")}`}
          </p>
        )}
        <Slider label="Strength" title="Of the whole routine; below 100 its passes become a set with this one strength" unit="%" min={0} max={100} initial={100} value={strength} onInput={setStrength} />
        {stage === "even" && (
          <>
            <Choice
              label="On"
              title="Where a routine's passes act"
              value={where}
              choices={[["skin", "All skin"], ["face", "The face only"]]}
              onChange={setWhere}
            />
            <Choice
              label="Spots from"
              title="How sure it has to be that a spot is a blemish for a routine to heal it; those you decided to clear are healed always"
              value={sure}
              choices={[["40", "40 % sure"], ["60", "60 % sure"], ["80", "80 % sure"], ["95", "95 % sure"]]}
              onChange={setSure}
            />
            <Form.Check
              type="switch"
              role="switch"
              id="routine-bright"
              label="Eyes, lips, teeth too"
              title="Adds the passes of the routine Bright"
              checked={bright}
              onChange={(e) => setBright(e.target.checked)}
            />
          </>
        )}
        {count > 1 && (
          <Choice
            label="For"
            title="Everyone gets passes of their own, fitted to their skin"
            value={who}
            choices={[["all", "Everyone"], ["one", "The chosen face"]]}
            onChange={setWho}
          />
        )}
        {stage === "even" && (
          <>
            <Button variant="tray" title="What was done here, for other portraits" onClick={() => setLearning(true)}>
              Keep as a routine…
            </Button>
            {learning && <LearnDialog show onClose={() => setLearning(false)} />}
            <Button variant="tray" title="The neck brought to the colour of the face" onClick={() => gesture(neckToFace(person))}>
              Neck to face
            </Button>
            <Button
              variant="tray"
              active={mode === "press"}
              aria-pressed={mode === "press"}
              title="Press on a colour in the picture and drag: left nearer to the skin's own, right further, up lighter, down darker"
              onClick={() => set({ mode: mode === "press" ? "heal" : "press" })}
            >
              <Icon name="hand-press" /> Press a colour
            </Button>
          </>
        )}
      </div>
    </section>
  );
}
