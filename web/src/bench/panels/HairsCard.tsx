/** Hairs laid by hand; brows mirrored, strays cleared and catchlights added by one click. */
import { Button } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";

export function HairsCard() {
  const { gesture } = useBenchParts("gesture");
  const { analysis, face } = useFaces();
  const { mode, set } = useHand();
  const count = analysis?.faces.length ?? 0;
  const whose = count > 1 ? (analysis?.faces[face]?.anchor ?? null) : null;
  return (
    <section className="mg-card" aria-label="Brows and catchlights">
      <div className="mg-card-head">
        <span className="mg-card-name">Brows, catchlights</span>
        <Button
          variant="quiet"
          active={mode === "hairs"}
          aria-pressed={mode === "hairs"}
          title="Lays single hairs into gaps, like those beside them"
          onClick={() => set({ mode: mode === "hairs" ? "heal" : "hairs" })}
        >
          <Icon name="brush" /> Hairs
        </Button>
      </div>
      {count > 0 && (
        <div className="mg-card-body mg-row">
          <Button
            variant="tray"
            title="Single hairs beside the brows healed, each a touch of its own"
            onClick={() => gesture({ op: "clear_strays", face: whose })}
          >
            Stray hairs
          </Button>
          {(["right", "left"] as const).map((side) => (
            <Button
              key={side}
              variant="tray"
              title={`The other brow, mirrored, laid over the person's ${side} one; it can be moved, turned, dimmed`}
              onClick={() => gesture({ op: "mirror_brow", side, face: whose })}
            >
              Mirror to the {side} brow
            </Button>
          ))}
          {(["right", "left"] as const).map((side) => (
            <Button
              key={side}
              variant="tray"
              title={`A catchlight in the form of the other eye's, in the person's ${side} eye`}
              onClick={() => gesture({ op: "add_catchlight", side, face: whose })}
            >
              Catchlight, {side} eye
            </Button>
          ))}
        </div>
      )}
    </section>
  );
}
