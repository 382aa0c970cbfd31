/** Pull: takes hold of a part of the face itself, and moves the number that it stands for. */
import type { Operation, Point } from "../../api/client";
import { toPicture, toScreen } from "../canvas/viewport";
import { pxPerMm } from "../state/bands";
import { useBench } from "../state/bench";
import { useFaces } from "../state/faces";
import { holdName, nearest, pulledBy, usePulling, type Pulled } from "../state/pulling";
import { useView } from "../state/view";
import { useDrawn } from "./drawn";
import type { Hand } from "./hand";

/** Moves of the hand below this are a press, in millimetres. */
const LEAST_MM = 0.25;

function operation(by: Record<string, number>, face: number): Operation {
  const { analysis } = useFaces.getState();
  const several = (analysis?.faces.length ?? 0) > 1;
  return { op: "pull_proportions", by, face: several ? (analysis?.faces[face]?.anchor ?? null) : null };
}

/** What was pulled, in words: "Wings −2.0 mm". */
function told({ pull, amount }: Pulled): string {
  return `${pull.title} ${amount > 0 ? "+" : amount < 0 ? "−" : ""}${Math.abs(amount).toFixed(1)} ${pull.unit}`;
}

function Values() {
  const { holds, now, last } = usePulling();
  const pointer = useDrawn((s) => s.pointer);
  const view = useView((s) => s.view);
  const under = pointer && nearest(holds, toPicture(view, pointer[0], pointer[1]), pxPerMm());
  const text = now ? told(now) : under ? holdName(under) : "Take hold of a part of the face";
  return (
    <span className="mg-told" aria-live="polite">
      {text}
      {!now && last?.pull.pair && under === last.hold && <small> · press again: the other side, too</small>}
    </span>
  );
}

/** A fine measure from where the part was to where it is. */
function Measure({ path }: { path: readonly Point[] }) {
  const view = useView((s) => s.view);
  const now = usePulling((s) => s.now);
  const [a, b] = [toScreen(view, ...path[0]!), toScreen(view, ...path.at(-1)!)];
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const long = Math.max(Math.hypot(dx, dy), 1);
  const [nx, ny] = [(-dy / long) * 5, (dx / long) * 5];
  return (
    <g className="mg-measure" pointerEvents="none">
      <path d={`M${a[0] - nx} ${a[1] - ny} L${a[0] + nx} ${a[1] + ny} M${a[0]} ${a[1]} L${b[0]} ${b[1]} M${b[0] - nx} ${b[1] - ny} L${b[0] + nx} ${b[1] + ny}`} />
      {now && (
        <text x={b[0] + 12} y={b[1] - 8}>
          {told(now)}
        </text>
      )}
    </g>
  );
}

export const pull: Hand = {
  name: "pull",
  title: "Pull",
  icon: "hand-pull",
  how: "Take hold of a part of the face and move it; press again to take the other side along",
  still: true,
  Values,
  Drawing: Measure,
  *gesture(first, work) {
    const { holds, last, set } = usePulling.getState();
    const hold = nearest(holds, first.at, pxPerMm());
    if (!hold) return;
    const { analysis, set: tell } = useFaces.getState();
    const scale = analysis?.faces[hold.face]?.px_per_mm ?? pxPerMm();
    // Their numbers are shown next.
    tell({ face: hold.face });
    let pulled: Pulled | null = null;
    let saved = false;
    try {
      for (let now = first; !now.last; ) {
        now = yield;
        if (now.last) break;
        const [dx, dy] = [now.at[0] - first.at[0], now.at[1] - first.at[1]];
        const found = Math.hypot(dx, dy) >= LEAST_MM * scale ? pulledBy(hold, dx, dy, scale) : null;
        if (!found) continue;
        const to: Point = [first.at[0] + found.along * found.pull.way[0] * scale, first.at[1] + found.along * found.pull.way[1] * scale];
        pulled = { hold, pull: found.pull, amount: found.amount, from: first.at, to };
        set({ now: pulled });
        useDrawn.setState({ path: [first.at, to] });
        work.painter?.showDraft([operation({ [found.pull.number]: found.amount }, hold.face)], null);
      }
      // A press on what was pulled last: the other side goes as far.
      const other = !pulled && last?.hold === hold && last.pull.pair ? { [last.pull.pair]: last.amount } : null;
      const by = pulled ? { [pulled.pull.number]: pulled.amount } : other;
      if (!by) return;
      saved = true;
      set({ last: pulled });
      useBench.getState().gesture(operation(by, hold.face), (outcome) => {
        if (!outcome) work.painter?.endDraft();
      });
    } finally {
      set({ now: null });
      useDrawn.setState({ path: null });
      if (!saved) work.painter?.endDraft();
    }
  },
};
