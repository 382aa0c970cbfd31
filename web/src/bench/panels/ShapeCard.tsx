/** Shape: parts of the face pulled directly, by brush, by outline, or by numbers. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Button } from "react-bootstrap";
import { client, unwrapAs, type Schemas } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand, type Mode } from "../state/hand";
import { usePulling, type Hold } from "../state/pulling";
import { whose as numberOf } from "../state/whose";

const HANDS: [Mode, string, string, string][] = [
  ["pull", "Pull", "hand-index", "Take hold of a part of the face: a wing of the nose, a corner of the mouth, the edge of the jaw"],
  ["push", "Nudge", "arrows-move", "A brush that pushes, widens, narrows or turns what lies under it"],
  ["part", "Move a part", "bounding-box-circles", "Outline a part, then drag it to where it belongs"],
];

export function ShapeCard() {
  const { portrait, passes, gesture, open } = useBenchParts("portrait", "passes", "gesture", "open");
  const { analysis, face } = useFaces();
  const { mode, set } = useHand();
  const count = analysis?.faces.length ?? 0;
  const whose = count > 1 ? (analysis?.faces[face]?.anchor ?? null) : null;
  const id = portrait?.id ?? "";
  // Somebody's numbers stand in one place; another pass of them is added by hand.
  const own = passes.findLast((p) => p.kind === "proportions" && (count < 2 || numberOf(p.fit.face, analysis?.faces ?? []) === face));
  const kept = passes.find((p) => p.kind === "straight_lines" && p.touches.length > 0);
  // Of everybody: in a group whose face is pulled, is told by where the hand is.
  const holds = useQuery({
    queryKey: ["holds", id, analysis?.key, count],
    queryFn: async () => {
      const each = Array.from({ length: count }, async (_, face) => {
        const own = await unwrapAs<Schemas["HoldOut"][]>(
          client.GET("/api/portraits/{portrait_id}/holds", { params: { path: { portrait_id: id }, query: { face } } }),
        );
        return own.map((hold): Hold => ({ ...hold, face }));
      });
      return (await Promise.all(each)).flat();
    },
    enabled: id !== "" && count > 0,
  });
  useEffect(() => usePulling.getState().set({ holds: holds.data ?? [], last: null }), [holds.data]);
  useEffect(() => {
    usePulling.getState().set({ inShape: true });
    return () => usePulling.getState().set({ inShape: false });
  }, []);
  return (
    <section className="mg-card" aria-label="Moves">
      <div className="mg-card-head">
        <span className="mg-card-name">Moves</span>
      </div>
      <div className="mg-card-body mg-row">
        {HANDS.filter(([hand]) => hand !== "pull" || count > 0).map(([hand, title, icon, how]) => (
          <Button
            key={hand}
            variant="tray"
            active={mode === hand}
            aria-pressed={mode === hand}
            title={how}
            onClick={() => set({ mode: mode === hand ? "heal" : hand })}
          >
            <Icon name={icon} /> {title}
          </Button>
        ))}
        <Button
          variant="tray"
          title="Eyes, brows, nose, mouth and face by millimetres and per cent"
          onClick={() => (own ? open(own.id) : gesture({ op: "add_pass", kind: "proportions", face: whose }))}
        >
          <Icon name="sliders" /> By numbers{count > 1 ? `, face ${face + 1}` : ""}
        </Button>
        {count > 0 && (
          <Button
            variant="tray"
            title="The line of the shoulders and the waist by millimetres"
            onClick={() => gesture({ op: "move_by_outline", kind: "figure", face: whose })}
          >
            <Icon name="person-standing" /> Figure
          </Button>
        )}
        <Button
          variant="tray"
          title="Finds door frames, shelves, horizons beside the person; moves keep them straight"
          onClick={() => gesture({ op: "guard_lines" })}
        >
          <Icon name="rulers" /> Keep lines straight
        </Button>
        {kept && (
          <Button variant="tray" title="The lines may bend again" onClick={() => gesture({ op: "remove_pass", id: kept.id })}>
            Let go of {kept.touches.length} {kept.touches.length === 1 ? "line" : "lines"}
          </Button>
        )}
      </div>
      <MovedList />
    </section>
  );
}

/** What was moved, where and how far, for whoever has to tell. */
function MovedList() {
  const { portrait, passes } = useBenchParts("portrait", "passes");
  const [open, setOpen] = useState(false);
  const id = portrait?.id ?? "";
  const moving = passes.some((p) => p.enabled && MOVING.has(p.kind));
  const moved = useQuery({
    queryKey: ["moves", id, portrait?.revision],
    queryFn: () =>
      unwrapAs<Schemas["PassMovedOut"][]>(client.GET("/api/portraits/{portrait_id}/moves", { params: { path: { portrait_id: id } } })),
    enabled: open && moving && id !== "",
  });
  if (!moving) return null;
  return (
    <details className="mg-group mg-card-body" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Everything moved</summary>
      <ul className="mg-moved" aria-label="Everything moved">
        {moved.data?.map((m) => (
          <li key={m.pass_id}>
            <b>{m.name}</b>, {m.where}:{" "}
            {m.most_mm === null
              ? `${m.most_px.toFixed(1)} px`
              : `${m.most_mm.toFixed(1)} mm, ${m.of_head!.toFixed(1)} % of the face's height`}
            {m.what.length > 0 && <small>{m.what.join("; ")}</small>}
          </li>
        ))}
      </ul>
      {moved.data?.length === 0 && <p className="mg-note">Nothing is moved.</p>}
    </details>
  );
}

const MOVING = new Set(["nudge", "part", "proportions", "volume", "figure"]);
