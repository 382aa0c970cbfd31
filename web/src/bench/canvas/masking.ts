/** What the pointer adds to the mask of the open pass: picked colours, gradients. */
import { client, unwrap, type ApiError, type Area, type Pass } from "../../api/client";
import { useBench } from "../state/bench";

function openPass(): Pass | null {
  const { passes, openPass, say } = useBench.getState();
  const found = passes.find((p) => p.id === openPass) ?? null;
  if (!found) say("Open the pass that you want to limit first.");
  return found;
}

function setAreas(pass: Pass, areas: Area[]) {
  useBench.getState().gesture({ op: "set_mask", pass_id: pass.id, areas, clear_strokes: false });
}

/** Add the colour at a place to the last range of the mask; to a new one where there is none. */
export async function pickColour([x, y]: readonly [number, number]) {
  const pass = openPass();
  const id = useBench.getState().portrait?.id;
  if (!pass || !id) return;
  try {
    const { lab } = await unwrap(
      client.GET("/api/portraits/{portrait_id}/sample", { params: { path: { portrait_id: id }, query: { x, y } } }),
    );
    const { areas } = pass.mask;
    const at = areas.findLastIndex((a) => a.kind === "range");
    const range = areas[at];
    if (range?.kind === "range")
      return setAreas(pass, areas.map((a, n) => (n === at ? { ...range, colours: [...range.colours, lab] } : a)));
    const way = areas.length ? "cross" : "add";
    setAreas(pass, [
      ...areas,
      { kind: "range", way, invert: false, colours: [lab], tolerance: 12, softness: 50, light: [0, 100], saturation: [0, 100] },
    ]);
  } catch (error) {
    useBench.setState({ problem: (error as ApiError).message });
  }
}

/** Let the open pass act fully at one place and not at all from another on. */
export function addGradient(start: readonly [number, number], end: readonly [number, number]) {
  const pass = openPass();
  if (!pass) return;
  const { areas } = pass.mask;
  const area: Area = { kind: "gradient", way: areas.length ? "cross" : "add", invert: false, start: [...start], end: [...end], round: false };
  setAreas(pass, [...areas, area]);
}
