/** Drawing outlines: freehand, by nodes, ellipses; dragging their nodes. */
import type { Point } from "../../api/client";
import { useHand } from "../state/hand";
import { inside } from "../state/marks";
import { bySteps, cornersOf, isPlace, useOutline } from "../state/outline";
import { useView } from "../state/view";
import { apart, type At, type Gesture, type Work } from "./hand";

/** What becomes of a closed outline, by hand; those that wait for more don't take it at once. */
export interface Taker {
  waits?: boolean;
  /** What a hand does with an outline; perhaps dragged by a shift. */
  take: (path: Point[], shift: Point | null) => void;
  /** Shown while a closed outline is dragged. */
  preview?: (path: Point[], shift: Point, work: Work) => void;
}

const takers = new Map<string, Taker>();

/** Tell what a hand does with the outlines that are drawn with it. */
export function takesOutlines(hand: string, taker: Taker) {
  takers.set(hand, taker);
}

const takerNow = () => takers.get(useHand.getState().mode);

/** Use a closed outline for what the hand does. */
export function takeOutline(shift: Point | null = null) {
  const { form, nodes, closed } = useOutline.getState();
  const path = cornersOf(form, nodes);
  if (closed && isPlace(path)) takerNow()?.take(path, shift);
}

export function closeOutline() {
  const { form, nodes, set, clear } = useOutline.getState();
  if (!isPlace(cornersOf(form, nodes))) return clear();
  set({ closed: true });
  if (!takerNow()?.waits) takeOutline();
}

/** A press where outlines are drawn: a node, a line, or a closed outline dragged to its source. */
export function* outline(first: At, work: Work): Gesture {
  const { form, nodes, closed, set } = useOutline.getState();
  const taker = takerNow();
  if (closed && taker?.preview && inside(cornersOf(form, nodes), ...first.at)) {
    yield* dragOutline(first, taker, work);
  } else if (bySteps(form)) {
    set(closed ? { nodes: [first.at], closed: false } : { nodes: [...nodes, first.at] });
  } else {
    set({ nodes: [first.at], closed: false });
    yield* drawOutline(first);
  }
}

function* drawOutline(first: At): Gesture {
  for (let now = first; !now.last; ) {
    now = yield;
    const { form, nodes, set } = useOutline.getState();
    const step = 2 / useView.getState().view.scale;
    if (form === "ellipse") set({ nodes: [nodes[0]!, now.at] });
    else if (apart(nodes.at(-1)!, now.at) >= step) set({ nodes: [...nodes, now.at] });
  }
  closeOutline();
}

function* dragOutline(first: At, taker: Taker, work: Work): Gesture {
  const { form, nodes } = useOutline.getState();
  const path = cornersOf(form, nodes);
  let shift: Point = [0, 0];
  let taken = false;
  try {
    for (let now = first; !now.last; ) {
      now = yield;
      shift = [now.at[0] - first.at[0], now.at[1] - first.at[1]];
      useOutline.setState({ shift });
      taker.preview!(path, shift, work);
    }
    taken = Math.hypot(...shift) >= 2;
    if (taken) takeOutline(shift);
  } finally {
    useOutline.setState({ shift: null });
    if (!taken) work.painter?.endDraft();
  }
}

/** A node taken hold of. */
export function* dragNode(index: number, first: At): Gesture {
  for (let now = first; !now.last; ) {
    now = yield;
    const { nodes, set } = useOutline.getState();
    set({ nodes: nodes.map((p, n) => (n === index ? now.at : p)) });
  }
}
