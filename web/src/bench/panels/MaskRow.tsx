/** Where a pass acts: eased by hand, limited by an outline; and back to everything. */
import { Button } from "react-bootstrap";
import type { Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { hint } from "../keys";
import { useBench } from "../state/bench";
import { useHand } from "../state/hand";

export function MaskRow({ pass }: { pass: Pass }) {
  const gesture = useBench((s) => s.gesture);
  const { mode, set } = useHand();
  const { mask } = pass;
  const clipped = mask.kind === "outline";
  const eased = mask.strokes?.length ?? 0;
  const everything = { kind: "everything" } as const;
  return (
    <div className="mg-mask-row" role="group" aria-label={`Where ${pass.name} acts`}>
      <Button variant="quiet" active={mode === "ease"} title={hint("ease")} onClick={() => set({ mode: "ease", reveal: false })}>
        <Icon name="eraser" /> {eased ? `Eased (${eased})` : "Ease"}
      </Button>
      <Button
        variant="quiet"
        active={mode === "clip"}
        title="Outline where this pass may act"
        onClick={() => set({ mode: "clip" })}
      >
        <Icon name="scissors" /> {clipped ? "Clipped" : "Clip"}
      </Button>
      {(clipped || eased > 0) && (
        <Button
          variant="quiet"
          title="The pass acts everywhere again, as strongly as at first"
          onClick={() => gesture({ op: "change_pass", id: pass.id, mask: everything })}
        >
          Everywhere
        </Button>
      )}
    </div>
  );
}
