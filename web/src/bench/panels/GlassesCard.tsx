/** Glasses: reflections on the lenses offered one by one, and all of it taken off; braces. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { client, unwrap } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { inside } from "../state/marks";

const first = (path: readonly (readonly number[])[]) => path[0]?.join() ?? "";

export function GlassesCard() {
  const { portrait, passes, gesture } = useBenchParts("portrait", "passes", "gesture");
  const { analysis, face, zone, zoneShow, set } = useFaces();
  const [working, setWorking] = useState(false);
  const id = portrait?.id ?? "";
  const corrected = passes.filter((p) => p.kind === "zones").flatMap((p) => p.touches).length;
  const found = useQuery({
    queryKey: ["glasses", id, analysis?.key, corrected],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/glasses", { params: { path: { portrait_id: id } } })),
    enabled: id !== "" && (analysis?.faces.length ?? 0) > 0,
  });
  const worn = found.data?.faces ?? [];
  const done = passes.filter((p) => p.kind === "lens_light" || p.kind === "fill").flatMap((p) => p.touches.filter((t) => t.enabled && t.path.length > 2));
  const open = (found.data?.reflections ?? []).filter((r) => !done.some((t) => inside(t.path, r.place[0]!, r.place[1]!)));
  const several = (analysis?.faces.length ?? 0) > 1;
  const shown = zone === "glasses" && zoneShow !== "off";
  const off = (only_light: boolean) => {
    setWorking(true);
    const person = several && worn.includes(face) ? (analysis?.faces[face]?.anchor ?? null) : null;
    gesture({ op: "take_off_glasses", face: person, only_light }, () => setWorking(false));
  };
  const one = (light: [number, number]) => {
    setWorking(true);
    gesture({ op: "take_off_glasses", light }, () => setWorking(false));
  };
  const braced = found.data?.braces ?? [];
  const bracesOff = () => {
    setWorking(true);
    const person = several && braced.includes(face) ? (analysis?.faces[face]?.anchor ?? null) : null;
    gesture({ op: "take_off_braces", face: person }, () => setWorking(false));
  };
  const told =
    worn.length === 0 ? "none found" : open.length > 0 ? `${open.length} ${open.length === 1 ? "glare" : "glares"}` : "found";
  return (
    <section className="mg-card" aria-label="Glasses">
      <div className="mg-card-head">
        <span className="mg-card-name">
          Glasses <small>{told}</small>
          {braced.length > 0 && <small>braces found</small>}
        </span>
        {worn.length > 0 && (
          <Button
            variant="quiet"
            active={shown}
            aria-pressed={shown}
            title="Shows the frame that was found; correct it with Zones in the stage Look"
            onClick={() => set(shown ? { zoneShow: "off" } : { zone: "glasses", zoneShow: "tint" })}
          >
            <Icon name="eye" /> Show
          </Button>
        )}
      </div>
      {worn.length > 0 && (
        <div className="mg-card-body mg-row">
          <Button
            variant="tray"
            disabled={working}
            title="Reflections, the frame and its shadow removed, as passes that can be changed; their fills stand in the stage Clear"
            onClick={() => off(false)}
          >
            Glasses off
          </Button>
          {open.length > 1 && (
            <Button variant="tray" disabled={working} title="All reflections, the frame stays" onClick={() => off(true)}>
              Reflections only
            </Button>
          )}
          {open.map((r) => (
            <Button
              key={first(r.path)}
              variant="tray"
              disabled={working}
              title={r.burnt ? "Nothing is seen through it: it is filled, from the other eye where that is seen" : "What is seen through it is kept, its light subtracted"}
              onClick={() => one(r.place as [number, number])}
            >
              {several ? `Face ${r.face + 1}, ` : ""}
              {several ? r.side : r.side === "right" ? "Right" : "Left"} lens{r.burnt ? ", burnt out" : ""}
            </Button>
          ))}
        </div>
      )}
      {braced.length > 0 && (
        <div className="mg-card-body mg-row">
          <Button
            variant="tray"
            disabled={working}
            title="Wire and brackets replaced by the teeth that go on behind them, each piece a touch of its own"
            onClick={bracesOff}
          >
            Braces off
          </Button>
        </div>
      )}
    </section>
  );
}
