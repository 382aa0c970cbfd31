import type { RefObject } from "react";
import { Button } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import type { Painter } from "../canvas/Painter";
import { useBench } from "../state/bench";
import { STAGES, useKinds } from "../state/kinds";
import { FacesCard } from "./FacesCard";
import { MarksCard } from "./MarksCard";
import { PassCard } from "./PassCard";
import { ZonesCard } from "./ZonesCard";

/** The passes of a stage as cards, the latest on top. */
export function PassPanel({
  stage,
  painterRef,
}: {
  stage: string;
  painterRef: RefObject<Painter | null>;
}) {
  const { passes, gesture, open } = useBench();
  const kinds = useKinds();
  const here = kinds.data?.filter((k) => k.stage === stage && !k.guide) ?? [];
  const shown = passes.filter((p) => here.some((k) => k.name === p.kind));
  const title = STAGES.find((s) => s.name === stage)?.title;
  return (
    <aside className="mg-passes" aria-label="Passes">
      <div className="mg-panel-head">
        <h2>{title}</h2>
        {here.map((k) => (
          <Button
            key={k.name}
            variant="quiet"
            title={k.meaning}
            onClick={() =>
              gesture({ op: "add_pass", kind: k.name }, (o) => {
                const added = o?.changes.find((c) => c.what === "pass");
                if (added) open(added.id);
              })
            }
          >
            <Icon name="plus-lg" /> {k.title}
          </Button>
        ))}
      </div>
      {stage === "clear" && <MarksCard />}
      {shown.length === 0 && (
        <p className="mg-hint">
          {stage === "clear"
            ? "Click a spot in the picture: a pass for it appears here by itself."
            : `Nothing here yet. Add ${here[0]?.title ?? "a pass"} above.`}
        </p>
      )}
      <ul>
        {[...shown].reverse().map((p) => (
          <PassCard
            key={p.id}
            pass={p}
            kind={here.find((k) => k.name === p.kind)}
            painterRef={painterRef}
          />
        ))}
      </ul>
      {stage === "look" && (
        <>
          <FacesCard />
          <ZonesCard />
        </>
      )}
    </aside>
  );
}
