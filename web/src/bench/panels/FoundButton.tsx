import { Button } from "react-bootstrap";
import type { Kind, Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { hint } from "../keys";
import { RESULT, useCompare } from "../state/compare";

/** Shows where a pass has found something: what it changes there, amplified, on grey. */
export function FoundButton({ pass, kind }: { pass: Pass; kind: Kind | undefined }) {
  const shown = useCompare((s) => s.instead.show === "effect" && s.instead.of === pass.id);
  const set = useCompare((s) => s.set);
  if (!kind?.finds) return null;
  return (
    <Button
      variant="quiet"
      active={shown}
      aria-pressed={shown}
      title={hint("maskShow", "What is found, amplified on grey; click again for the picture")}
      onClick={() => set({ instead: shown ? RESULT : { show: "effect", of: pass.id } })}
    >
      <Icon name="search" /> Show what is found
    </Button>
  );
}
