/** Shape by hand: the brush that nudges; proportions of the chosen person by numbers. */
import { Button } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";

export function ShapeCard() {
  const { gesture } = useBenchParts("gesture");
  const { analysis, face } = useFaces();
  const { mode, set } = useHand();
  const count = analysis?.faces.length ?? 0;
  const whose = count > 1 ? (analysis?.faces[face]?.anchor ?? null) : null;
  return (
    <section className="mg-card" aria-label="Moves">
      <div className="mg-card-head">
        <span className="mg-card-name">Moves</span>
      </div>
      <div className="mg-card-body mg-row">
        <Button
          variant="tray"
          active={mode === "push"}
          aria-pressed={mode === "push"}
          title="A brush that pushes, widens, narrows or turns what lies under it"
          onClick={() => set({ mode: mode === "push" ? "heal" : "push" })}
        >
          <Icon name="arrows-move" /> Nudge
        </Button>
        <Button
          variant="tray"
          title="Eyes, brows, nose, mouth and face by millimetres and per cent"
          onClick={() => gesture({ op: "add_pass", kind: "proportions", face: whose })}
        >
          <Icon name="sliders" /> Proportions{count > 1 ? `, face ${face + 1}` : ""}
        </Button>
      </div>
    </section>
  );
}
