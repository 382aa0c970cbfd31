/** Strokes of a brush: collected, traced, and saved as touches. */
import type { Operation, Point } from "../../api/client";
import { bandSettings, passFor } from "../state/bands";
import { useBench } from "../state/bench";
import { useFaces } from "../state/faces";
import { offsetFor, useHand, type Mode } from "../state/hand";
import { keptUnder } from "../state/marks";
import { beginTrace, changeTrace, endTrace, seen } from "./drawn";
import { apart, rounded, type At, type Gesture } from "./hand";

/** Points of a stroke closer than this part of the radius add nothing. */
const SPACING = 0.2;

export interface Stroke {
  key: number;
  path: Point[];
  /** The most that a pen was pressed; null for what has no pressure. */
  pressure: number | null;
}

/** A stroke from press to release, with its trace under the brush. */
export function* stroke(first: At): Gesture<Stroke> {
  const { radius, pressure: counts } = useHand.getState();
  const path: Point[] = [first.at];
  let pressure = counts ? first.pressure : null;
  const key = beginTrace(path, radius);
  let finished = false;
  try {
    for (let now = first; !now.last; ) {
      now = yield;
      if (pressure !== null) pressure = Math.max(pressure, now.pressure ?? 0);
      if (now.last || apart(path.at(-1)!, now.at) < Math.max(SPACING * radius, 0.7)) continue;
      path.push(now.at);
      changeTrace(key, { path: [...path] });
    }
    finished = true;
    return { key, path: rounded(path), pressure };
  } finally {
    if (!finished) endTrace(key);
  }
}

/** A pen pressed lightly paints smaller and weaker. */
function pressed({ pressure }: Stroke): number {
  return pressure === null ? 1 : Math.min(Math.max(pressure, 0.1), 1);
}

/** Open the pass that a gesture put its touch in. */
export function openAdded(outcome: { changes: { what: string; pass_id: string }[] } | null) {
  const added = outcome?.changes.find((c) => c.what === "touch");
  if (added) useBench.getState().open(added.pass_id);
}

/** Save a finished stroke; its trace stays until its pixels are there. */
export function save(operation: Operation, key: number) {
  useBench.getState().gesture(operation, (outcome, painted) => {
    seen(key, painted);
    openAdded(outcome);
  });
}

/** Save a stroke as a touch of a kind, with the values that its hand has; a `plain` one has no softness. */
export function paint(kind: Mode, done: Stroke, values: Record<string, number | string>, takes: boolean, plain = false) {
  const { chosen, aligned, radius, softness, opacity, set } = useHand.getState();
  const source = takes ? offsetFor(chosen, aligned, ...done.path[0]!) : null;
  if (chosen && source) set({ chosen: { ...chosen, offset: source } });
  const part = pressed(done);
  const radius_px = Math.max(Math.round(2 * radius * part) / 2, 0.5);
  changeTrace(done.key, { radius: radius_px });
  const usual: Record<string, number> = plain ? {} : { softness, opacity: Math.max(Math.round(opacity * part), 1) };
  const all = { radius_px, ...usual, ...values };
  save(
    {
      op: "add_touch",
      kind,
      pass_id: passFor(kind),
      settings: bandSettings(kind),
      touch: { path: done.path, values: all, source, ...(source && chosen?.elsewhere && { elsewhere: chosen.elsewhere }) },
    },
    done.key,
  );
}

/** Do it, after asking where a stroke covers marks that the user wanted to keep. */
export function unlessKept(done: Stroke, verb: string, go: () => void) {
  const kept = keptUnder(useFaces.getState().analysis?.marks ?? [], done.path, useHand.getState().radius);
  if (kept.length === 0) return go();
  endTrace(done.key);
  useBench.getState().ask({
    text: kept.length === 1 ? "You wanted to keep this mark." : `You wanted to keep ${kept.length} marks here.`,
    yes: `${verb} anyway`,
    go: () => {
      done.key = beginTrace(done.path, useHand.getState().radius);
      go();
    },
  });
}
