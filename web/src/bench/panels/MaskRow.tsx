/** Where a pass acts: eased by hand, limited by an outline; and back to everything. */
import { Button } from "react-bootstrap";
import { client, unwrap, type ApiError, type Pass } from "../../api/client";
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
  const find = async () => {
    const { portrait, pickAll, say } = useBench.getState();
    const path = { portrait_id: portrait!.id, pass_id: pass.id };
    const found = await unwrap(
      client.GET("/api/portraits/{portrait_id}/passes/{pass_id}/repeats", { params: { path } }),
    ).catch((error: ApiError) => say(error.message));
    if (!found) return;
    pickAll(found.map((r) => r.touch_id));
    say(
      found.length === 0
        ? "Nothing in this pass repeats itself visibly."
        : `${found.length === 1 ? "One touch repeats" : `${found.length} touches repeat`} its source visibly. N gives the picked one another.`,
    );
  };
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
      {pass.touches.some((t) => t.source) && (
        <Button variant="quiet" title="Find touches that visibly repeat the place they were taken from" onClick={() => void find()}>
          <Icon name="front" /> Repeats
        </Button>
      )}
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
