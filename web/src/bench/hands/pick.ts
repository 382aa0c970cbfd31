/** Pick: colours for the range of the open pass's mask. */
import { client, unwrap, type ApiError, type Point } from "../../api/client";
import { useBench } from "../state/bench";
import { useHand } from "../state/hand";
import { fromTo } from "./dragged";
import type { Hand } from "./hand";
import { openPass, setAreas } from "./masking";

type Colour = [number, number, number];

/** CIELAB of the original at a place. */
export async function colourAt(at: Point): Promise<Colour> {
  const { lab } = await unwrap(
    client.GET("/api/portraits/{portrait_id}/sample", {
      params: { path: { portrait_id: useBench.getState().portrait!.id }, query: { x: at[0], y: at[1] } },
    }),
  );
  return lab as Colour;
}

/** Add the colour at a place to the last range of the mask; to a new one where there is none. */
async function pickColour(at: Point) {
  const pass = openPass();
  if (!pass) return;
  try {
    const lab = await colourAt(at);
    const { areas } = pass.mask;
    const n = areas.findLastIndex((a) => a.kind === "range");
    const range = areas[n];
    if (range?.kind === "range")
      return setAreas(pass, areas.map((a, m) => (m === n ? { ...range, colours: [...range.colours, lab] } : a)));
    const way = areas.length ? "cross" : "add";
    setAreas(pass, [
      ...areas,
      { kind: "range", way, invert: false, colours: [lab], tolerance: 12, softness: 50, light: [0, 100], saturation: [0, 100] },
    ]);
  } catch (error) {
    useBench.setState({ problem: (error as ApiError).message });
  }
}

export const pick: Hand = {
  name: "pick",
  title: "Pick",
  icon: "hand-sample",
  how: "Click colours for the range of the open pass's mask",
  still: true,
  *gesture(first) {
    const { to } = yield* fromTo(first);
    // It goes on until another hand is taken.
    if (useHand.getState().mode === "pick") void pickColour(to);
  },
};
