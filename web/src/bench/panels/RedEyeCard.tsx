/** Pupils that glow red from the flash: offered one by one or all at once, or dabbed by hand. */
import { useQuery } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { client, unwrap, type Operation, type Schemas } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";

type RedEye = Schemas["RedEyeOut"];

/** One gesture that makes pupils dark. */
function darken(eyes: RedEye[]): Operation {
  return {
    op: "add_touches",
    kind: "red_eye",
    touches: eyes.map((e) => ({ path: [[e.x, e.y]], values: { radius_px: e.radius_px } })),
    label: eyes.length === 1 ? `Red eye, ${eyes[0]!.side}` : `${eyes.length} red eyes`,
  };
}

export function RedEyeCard() {
  const { portrait, passes, gesture } = useBenchParts("portrait", "passes", "gesture");
  const { analysis } = useFaces();
  const { mode, set } = useHand();
  const id = portrait?.id ?? "";
  const found = useQuery({
    queryKey: ["red-eyes", id, analysis?.key],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/red-eyes", { params: { path: { portrait_id: id } } })),
    enabled: id !== "" && (analysis?.faces.length ?? 0) > 0,
  });
  const dabs = passes.filter((p) => p.kind === "red_eye").flatMap((p) => p.touches);
  const dark = (e: RedEye) => dabs.some((t) => t.path.some(([x, y]) => Math.hypot(x - e.x, y - e.y) < e.radius_px));
  const open = (found.data ?? []).filter((e) => !dark(e));
  const several = (analysis?.faces.length ?? 0) > 1;
  return (
    <section className="mg-card" aria-label="Red eyes">
      <div className="mg-card-head">
        <span className="mg-card-name">
          Red eyes <small>{open.length > 0 ? `${open.length} found` : found.data?.length ? "darkened" : "none found"}</small>
        </span>
        <Button
          variant="quiet"
          active={mode === "red_eye"}
          aria-pressed={mode === "red_eye"}
          title="Click pupils in the picture yourself"
          onClick={() => set({ mode: mode === "red_eye" ? "heal" : "red_eye" })}
        >
          <Icon name="eye" /> By hand
        </Button>
      </div>
      {open.length > 0 && (
        <div className="mg-card-body mg-row">
          {open.length > 1 && (
            <Button variant="tray" title="All of them, as one step" onClick={() => gesture(darken(open))}>
              Darken all
            </Button>
          )}
          {open.map((e) => (
            <Button key={`${e.face} ${e.side}`} variant="tray" title="Makes this pupil dark; its catchlight stays" onClick={() => gesture(darken([e]))}>
              {several ? `Face ${e.face + 1}, ${e.side}` : e.side === "right" ? "Right eye" : "Left eye"}
            </Button>
          ))}
        </div>
      )}
    </section>
  );
}
