/** Zone and colour: which pixels belong to the zone that is corrected, by brush or by colour. */
import type { Operation, Point } from "../../api/client";
import { useBench } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";
import { endTrace } from "./drawn";
import { fromTo } from "./dragged";
import type { Hand } from "./hand";
import { stroke } from "./stroke";
import { Size, Softness, Strength } from "./values";

function corrected(way: "brush" | "colour", path: Point[]): Operation {
  const { adding: add, radius: radius_px, softness, edges, tolerance } = useHand.getState();
  const values = { zone: useFaces.getState().zone, add, way, radius_px, softness, edges, tolerance };
  return { op: "add_touch", kind: "zones", touch: { path, values } };
}

const Values = () => (
  <>
    <Size />
    <Softness />
    <Strength />
  </>
);

export const zone: Hand = {
  name: "zone",
  title: "Zone",
  icon: "hand-brush",
  how: "Paint the zone",
  brush: () => true,
  Values,
  *gesture(first) {
    const { key, path } = yield* stroke(first);
    endTrace(key);
    useBench.getState().gesture(corrected("brush", path));
  },
};

export const colour: Hand = {
  name: "colour",
  title: "Colour",
  icon: "hand-sample",
  how: "Click colours of the zone",
  Values,
  *gesture(first) {
    const { to } = yield* fromTo(first);
    useBench.getState().gesture(corrected("colour", [to]));
  },
};
