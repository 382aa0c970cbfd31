/** Says what an outline waits for, and how far a long gesture is. */
import { useEffect, useState } from "react";
import { Button } from "react-bootstrap";
import { client, unwrap } from "../../api/client";
import { Progress } from "../../ui/Progress";
import { takeOutline } from "../hands/outlining";
import { hint } from "../keys";
import { useBench, useBenchParts } from "../state/bench";
import { useHand } from "../state/hand";
import { bySteps, useOutline } from "../state/outline";

const POLL_MS = 300;
const SLOW_MS = 500;

/** How much of a long gesture is done, 0..1; null where none goes on. */
function useWork(): number | null {
  const { portrait, waiting } = useBenchParts("portrait", "waiting");
  const [done, setDone] = useState<number | null>(null);
  const id = portrait?.id;
  useEffect(() => {
    if (!id || waiting === 0) return;
    let over = false;
    let timer = window.setTimeout(ask, SLOW_MS);
    async function ask() {
      const work = await unwrap(
        client.GET("/api/portraits/{portrait_id}/work", { params: { path: { portrait_id: id! } } }),
      ).catch(() => ({ done: null }));
      if (over) return;
      setDone(work.done);
      timer = window.setTimeout(ask, POLL_MS);
    }
    return () => {
      over = true;
      window.clearTimeout(timer);
      setDone(null);
    };
  }, [id, waiting]);
  return done;
}

export function OutlineFlag() {
  const { closed, nodes, form, sparing, clear, set } = useOutline();
  const mode = useHand((s) => s.mode);
  const id = useBench((s) => s.portrait?.id);
  const done = useWork();
  if (done !== null)
    return (
      <div className="mg-flag mg-sweep-flag" role="region" aria-label="Work under way">
        <Progress className="mg-flag-progress" label="How much is done" now={100 * done} />
        <span>{done > 0 ? `Working, ${Math.round(100 * done)} %` : "Working …"}</span>
        <Button
          variant="quiet"
          onClick={() =>
            void client.DELETE("/api/portraits/{portrait_id}/work", { params: { path: { portrait_id: id! } } })
          }
        >
          Stop
        </Button>
      </div>
    );
  if (mode === "patch" && closed)
    return (
      <div className="mg-flag mg-sweep-flag" role="region" aria-label="Patch">
        <span>Drag the outline onto clean skin</span>
        <Button variant="quiet" title={hint("confirm")} onClick={() => takeOutline()}>
          Find a source
        </Button>
        <Button variant="quiet" title={hint("unpick")} onClick={clear}>
          Let go
        </Button>
      </div>
    );
  if (sparing)
    return (
      <div className="mg-flag mg-sweep-flag" role="region" aria-label="Spare">
        <span>Outline what fills must not take from</span>
        <Button variant="quiet" onClick={() => set({ sparing: false, nodes: [], closed: false })}>
          Let go
        </Button>
      </div>
    );
  if (!closed && bySteps(form) && nodes.length > 0)
    return (
      <div className="mg-flag mg-sweep-flag" role="region" aria-label="Outline">
        <span>{nodes.length < 3 ? "Set node after node" : "Click the first node to close"}</span>
        <Button variant="quiet" title={hint("unpick")} onClick={clear}>
          Let go
        </Button>
      </div>
    );
  return null;
}
