/** What hands add to the mask of the open pass. */
import type { Area, Pass } from "../../api/client";
import { useBench } from "../state/bench";

export function openPass(): Pass | null {
  const { passes, openPass, say } = useBench.getState();
  const found = passes.find((p) => p.id === openPass) ?? null;
  if (!found) say("Open the pass that you want to limit first.");
  return found;
}

export function setAreas(pass: Pass, areas: Area[], label?: string, done?: () => void) {
  useBench.getState().gesture({ op: "set_mask", pass_id: pass.id, areas, label }, (outcome) => outcome && done?.());
}

/** One more area; where there are some already, the pass acts only where both are. */
export function addArea(area: Area, label?: string, done?: () => void) {
  const pass = openPass();
  if (!pass) return;
  const { areas } = pass.mask;
  setAreas(pass, [...areas, { ...area, way: areas.length ? "cross" : "add" }], label, done);
}
