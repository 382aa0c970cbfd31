import { useState, type RefObject } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import type { Operation } from "../../api/client";
import { Icon } from "../../ui/Icon";
import type { Painter } from "../canvas/Painter";
import { movePass, useBench } from "../state/bench";
import { bring, useCarried } from "../state/carrying";
import { STAGES, useKinds } from "../state/kinds";
import { BandsCard } from "./BandsCard";
import { FacesCard } from "./FacesCard";
import { MarksCard } from "./MarksCard";
import { PassCard } from "./PassCard";
import { RoutinesCard } from "./RoutinesCard";
import { TextureCard } from "./TextureCard";
import { ZonesCard } from "./ZonesCard";

type Stage = Extract<Operation, { op: "switch_stage" }>["stage"];

/** The passes of a stage as cards, the latest on top. */
export function PassPanel({
  stage,
  painterRef,
}: {
  stage: string;
  painterRef: RefObject<Painter | null>;
}) {
  const { portrait, passes, gesture } = useBench();
  const carried = useCarried();
  const [dragged, setDragged] = useState<string | null>(null);
  const kinds = useKinds();
  const here = kinds.data?.filter((k) => k.stage === stage && !k.guide) ?? [];
  const shown = passes.filter((p) => here.some((k) => k.name === p.kind));
  const add = (kind: string) => gesture({ op: "add_pass", kind });
  const title = STAGES.find((s) => s.name === stage)?.title;
  return (
    <aside className="mg-passes" aria-label="Passes">
      <div className="mg-panel-head">
        <h2>{title}</h2>
        {shown.length > 0 && (
          <Form.Check
            type="switch"
            role="switch"
            aria-label={`${title} on or off`}
            title="The whole stage on or off"
            checked={shown.some((p) => p.stage_on)}
            onChange={(e) => gesture({ op: "switch_stage", stage: stage as Stage, on: e.target.checked })}
          />
        )}
        <span className="flex-grow-1" />
        {carried.portrait && carried.portrait !== portrait?.id && (
          <Button variant="quiet" title={`Copy ${carried.title} here`} onClick={bring}>
            <Icon name="box-arrow-in-down" /> Bring
          </Button>
        )}
        {here.length > 2 ? (
          <Dropdown align="end">
            <Dropdown.Toggle variant="quiet" title="Add an empty pass">
              <Icon name="plus-lg" /> Pass
            </Dropdown.Toggle>
            <Dropdown.Menu>
              {here.map((k) => (
                <Dropdown.Item key={k.name} as="button" title={k.meaning} onClick={() => add(k.name)}>
                  {k.title}
                </Dropdown.Item>
              ))}
            </Dropdown.Menu>
          </Dropdown>
        ) : (
          here.map((k) => (
            <Button key={k.name} variant="quiet" title={k.meaning} onClick={() => add(k.name)}>
              <Icon name="plus-lg" /> {k.title}
            </Button>
          ))
        )}
      </div>
      {stage === "clear" && <MarksCard />}
      {stage === "clear" && <BandsCard />}
      {stage === "even" && <RoutinesCard />}
      {stage === "even" && <TextureCard />}
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
            onMove={(by) => movePass(p.id, by, shown)}
            onDrag={() => setDragged(p.id)}
            onDrop={() => {
              if (dragged && dragged !== p.id)
                gesture({ op: "move_pass", id: dragged, index: passes.findIndex((q) => q.id === p.id) });
              setDragged(null);
            }}
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
