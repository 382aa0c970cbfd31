/** Borrow: a part of the face, or a source for heals and clones, from another portrait. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { client, unwrapAs, type Operation, type Schemas } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { usePortraits } from "../../wall/library";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";
import { useOther, type LaidOver } from "../state/other";

type Part = Schemas["Borrow"]["part"];
const PARTS: [Part, string][] = [
  ["eyes", "Both eyes"],
  ["right_eye", "Right eye"],
  ["left_eye", "Left eye"],
  ["mouth", "Mouth"],
  ["brows", "Brows"],
  ["face", "Whole face"],
];

export function BorrowCard() {
  const { portrait, gesture } = useBenchParts("portrait", "gesture");
  const { analysis, face } = useFaces();
  const { mode, set: setHand } = useHand();
  const { id: other, shown, set } = useOther();
  const portraits = usePortraits(false);
  const [working, setWorking] = useState(false);
  const id = portrait?.id ?? "";
  const others = (portraits.data ?? []).filter((p) => p.id !== id);
  const laid = useQuery({
    queryKey: ["laid-over", id, other, analysis?.key],
    queryFn: () =>
      unwrapAs<LaidOver>(client.GET("/api/portraits/{portrait_id}/laid-over", { params: { path: { portrait_id: id }, query: { other: other! } } })),
    enabled: other !== null && shown && id !== "",
  });
  useEffect(() => set({ laid: laid.data ?? null }), [laid.data, set]);
  const several = (analysis?.faces.length ?? 0) > 1;
  const borrow = (part: Part) => {
    const operation: Operation = { op: "borrow", portrait: other!, part, face: several ? (analysis?.faces[face]?.anchor ?? null) : null };
    setWorking(true);
    gesture(operation, () => setWorking(false));
  };
  return (
    <section className="mg-card" aria-label="Borrow">
      <div className="mg-card-head">
        <span className="mg-card-name">Borrow</span>
        <Button
          variant="quiet"
          disabled={other === null}
          active={shown}
          aria-pressed={shown}
          title="Shows the other picture beside this one; Alt-click in it chooses the source of heals and clones"
          onClick={() => set({ shown: !shown })}
        >
          <Icon name="layout-split" /> Beside
        </Button>
      </div>
      <div className="mg-card-body mg-row">
        <Form.Select
          size="sm"
          aria-label="Borrow from"
          title="The portrait that is borrowed from"
          value={other ?? ""}
          onChange={(e) => set({ id: e.target.value || null, laid: null })}
        >
          <option value="">Another portrait…</option>
          {others.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </Form.Select>
        {other !== null && (
          <>
            {PARTS.map(([part, title]) => (
              <Button
                key={part}
                variant="tray"
                disabled={working}
                title="Laid in place, its light matched, its edge joined; it can be moved, turned, dimmed"
                onClick={() => borrow(part)}
              >
                {title}
              </Button>
            ))}
            <Button
              variant="tray"
              active={mode === "borrow"}
              aria-pressed={mode === "borrow"}
              title="Draw an outline in the picture around what is to be borrowed"
              onClick={() => setHand({ mode: mode === "borrow" ? "heal" : "borrow" })}
            >
              <Icon name="bounding-box-circles" /> Outline
            </Button>
          </>
        )}
      </div>
      {laid.isLoading && <p className="mg-hint">Looking for faces on the other picture…</p>}
      {working && <p className="mg-hint">Laying it in place…</p>}
      {laid.error && <p className="mg-hint">{laid.error.message}</p>}
    </section>
  );
}
