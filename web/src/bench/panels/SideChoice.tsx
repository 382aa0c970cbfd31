/** On which side of the face a pass acts: the person's own right or left, or both. */
import { Button } from "react-bootstrap";
import type { Area, Pass } from "../../api/client";
import { useBench } from "../state/bench";

type Side = Extract<Area, { kind: "zone" }>["side"];

const SIDES = [
  ["both", "Both sides"],
  ["right", "Right"],
  ["left", "Left"],
] as const satisfies readonly (readonly [Side, string])[];

export function SideChoice({ pass }: { pass: Pass }) {
  const gesture = useBench((s) => s.gesture);
  const { areas } = pass.mask;
  const sides = new Set(areas.flatMap((a) => (a.kind === "zone" ? [a.side] : [])));
  if (sides.size === 0) return null;
  const choose = (side: Side) =>
    gesture({
      op: "set_mask",
      pass_id: pass.id,
      clear_strokes: false,
      areas: areas.map((a) => (a.kind === "zone" ? { ...a, side } : a)),
      label: `${SIDES.find(([s]) => s === side)?.[1]}:`,
    });
  return (
    <div className="mg-row" role="group" aria-label="Side of the face">
      {SIDES.map(([side, title]) => (
        <Button
          key={side}
          variant="tray"
          active={sides.size === 1 && sides.has(side)}
          aria-pressed={sides.size === 1 && sides.has(side)}
          title={side === "both" ? "Both sides of the face" : `The person's own ${side} side alone`}
          onClick={() => choose(side)}
        >
          {title}
        </Button>
      ))}
    </div>
  );
}
