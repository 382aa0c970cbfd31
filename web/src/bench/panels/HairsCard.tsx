/** Hairs laid by hand; brows mirrored, strays cleared and catchlights added by one click. */
import { Button } from "react-bootstrap";
import type { Operation } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";

type Side = "right" | "left";
type Whose = readonly [number, number] | null;

const ROWS = [
  {
    name: "Mirror the brow onto",
    does: "Brow mirrored",
    told: "brow",
    operation: {
      title: (side: Side) => `The other brow, mirrored, laid over the person's ${side} one; it can be moved, turned, dimmed`,
      of: (side: Side, face: Whose): Operation => ({ op: "mirror_brow", side, face: face && [...face] }),
    },
  },
  {
    name: "Catchlight in the eye",
    does: "Catchlight",
    told: "eye",
    operation: {
      title: (side: Side) => `A catchlight in the form of the other eye's, in the person's ${side} eye`,
      of: (side: Side, face: Whose): Operation => ({ op: "add_catchlight", side, face: face && [...face] }),
    },
  },
];

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
          <Icon name="hand-hairs" /> Hairs
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
          {ROWS.map(({ name, does, told, operation }) => (
            <div key={name} className="mg-sided">
              <span>{name}</span>
              {(["right", "left"] as const).map((side) => (
                <Button
                  key={side}
                  variant="tray"
                  aria-label={`${does}, ${side} ${told}`}
                  title={operation.title(side)}
                  onClick={() => gesture(operation.of(side, whose))}
                >
                  {side === "right" ? "Right" : "Left"}
                </Button>
              ))}
            </div>
          ))}
        </div>
      )}
    </section>
  );
}
