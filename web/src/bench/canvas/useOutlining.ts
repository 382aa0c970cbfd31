/** What the pointer does where outlines are drawn: patches, outlined fills, clips. */
import { useState, type RefObject } from "react";
import type { Area, Operation } from "../../api/client";
import { useBench } from "../state/bench";
import { OUTLINING, useHand, type Mode } from "../state/hand";
import { inside } from "../state/marks";
import { bySteps, cornersOf, isPlace, useOutline, type Point } from "../state/outline";
import { bandSettings, passFor } from "../state/bands";
import { useView } from "../state/view";
import type { Painter } from "./Painter";

type Motion = { kind: "draw" } | { kind: "node"; index: number } | { kind: "place"; from: Point; shift: Point };

/** Whether the hand draws outlines now rather than painting. */
export function outlines(mode: Mode, fillBy: string): boolean {
  return OUTLINING.includes(mode) && (mode !== "fill" || fillBy === "outline" || useOutline.getState().sparing);
}

/** The patch that an outline becomes when it is dragged by a shift; without one a source is found. */
function patchOf(path: Point[], shift: Point | null): Operation {
  const { way, edge, opacity } = useHand.getState();
  return {
    op: "add_touch",
    kind: "patch",
    pass_id: passFor("patch"),
    settings: bandSettings("patch"),
    touch: {
      path,
      values: { way, feather_px: edge, opacity },
      source: shift && [Math.round(shift[0]), Math.round(shift[1])],
      spare: [],
    },
  };
}

/** Open the pass that a gesture put its touch in. */
export function openAdded(outcome: { changes: { what: string; pass_id: string }[] } | null) {
  const added = outcome?.changes.find((c) => c.what === "touch");
  if (added) useBench.getState().open(added.pass_id);
}

export function fillOf(path: number[][], by: "brush" | "outline"): Operation {
  const { radius, opacity, anywhere } = useHand.getState();
  return {
    op: "add_touch",
    kind: "fill",
    anywhere,
    pass_id: passFor("fill"),
    touch: {
      path,
      values: { shape: by, radius_px: radius, opacity, seed: 0 },
      source: null,
      spare: useOutline.getState().spares,
    },
  };
}

/** Use a closed outline for what the hand does. */
export function takeOutline(shift: Point | null = null) {
  const outline = useOutline.getState();
  const { mode } = useHand.getState();
  const bench = useBench.getState();
  const path = cornersOf(outline.form, outline.nodes);
  if (!outline.closed || !isPlace(path)) return;
  if (mode === "fill" && outline.sparing) {
    outline.set({ spares: [...outline.spares, path], sparing: false, nodes: [], closed: false });
    return;
  }
  const settle = (outcome: Parameters<typeof openAdded>[0]) => {
    if (outcome) outline.clear();
    openAdded(outcome);
  };
  if (mode === "patch") bench.gesture(patchOf(path, shift), settle);
  else if (mode === "fill") bench.gesture(fillOf(path, "outline"), settle);
  else if (mode === "clip") {
    const { openPass } = bench;
    if (!openPass) return bench.say("Open the pass that you want to limit first.");
    const { clipFeather, clipOutside } = useHand.getState();
    const one = bench.passes.find((p) => p.id === openPass)!;
    const area: Area = {
      kind: "outline",
      way: one.mask.areas.length ? "cross" : "add",
      invert: clipOutside,
      points: path,
      feather_px: clipFeather,
    };
    bench.gesture(
      { op: "set_mask", pass_id: openPass, areas: [...one.mask.areas, area], clear_strokes: false, label: "Clip" },
      (outcome) => outcome && outline.clear(),
    );
  }
}

export function useOutlining(painterRef: RefObject<Painter | null>) {
  const [motion, setMotion] = useState<Motion | null>(null);

  const close = () => {
    const { form, nodes, set, clear } = useOutline.getState();
    if (!isPlace(cornersOf(form, nodes))) return clear();
    set({ closed: true });
    // A patch waits to be dragged; the others know already what to do.
    if (useHand.getState().mode !== "patch") takeOutline();
  };

  const down = (at: Point) => {
    const { form, nodes, closed, set } = useOutline.getState();
    if (closed && useHand.getState().mode === "patch" && inside(cornersOf(form, nodes), at[0], at[1])) {
      setMotion({ kind: "place", from: at, shift: [0, 0] });
    } else if (bySteps(form)) {
      set(closed ? { nodes: [at], closed: false } : { nodes: [...nodes, at] });
    } else {
      set({ nodes: [at], closed: false });
      setMotion({ kind: "draw" });
    }
  };

  const onNode = (index: number, event: React.PointerEvent) => {
    event.stopPropagation();
    const { closed, nodes } = useOutline.getState();
    if (index === 0 && !closed && nodes.length >= 3) return close();
    setMotion({ kind: "node", index });
  };

  const move = (at: Point) => {
    if (!motion) return false;
    const { form, nodes, set } = useOutline.getState();
    if (motion.kind === "node") {
      set({ nodes: nodes.map((p, n) => (n === motion.index ? at : p)) });
    } else if (motion.kind === "draw") {
      const last = nodes.at(-1)!;
      const step = 2 / useView.getState().view.scale;
      if (form === "ellipse") set({ nodes: [nodes[0]!, at] });
      else if (Math.hypot(at[0] - last[0], at[1] - last[1]) >= step) set({ nodes: [...nodes, at] });
    } else {
      const shift: Point = [at[0] - motion.from[0], at[1] - motion.from[1]];
      setMotion({ ...motion, shift });
      const path = cornersOf(form, nodes);
      const xs = path.map((p) => p[0]);
      const ys = path.map((p) => p[1]);
      painterRef.current?.showDraft(
        [patchOf(path, shift)],
        [Math.min(...xs) - 2, Math.min(...ys) - 2, Math.max(...xs) + 2, Math.max(...ys) + 2],
      );
    }
    return true;
  };

  const up = () => {
    if (!motion) return false;
    setMotion(null);
    if (motion.kind === "draw") close();
    if (motion.kind === "place") {
      if (Math.hypot(...motion.shift) >= 2) takeOutline(motion.shift);
      else painterRef.current?.endDraft();
    }
    return true;
  };

  const cancel = () => {
    if (motion?.kind === "place") painterRef.current?.endDraft();
    setMotion(null);
  };

  return { down, move, up, cancel, close, onNode, shift: motion?.kind === "place" ? motion.shift : null, busy: motion !== null };
}
