/** Neutral and hue: pressing on what is grey in truth, and on a colour that is to change. */
import { client, unwrap, type ApiError, type Operation, type Point } from "../../api/client";
import { useBench } from "../state/bench";
import { fromTo } from "./dragged";
import type { Hand, Work } from "./hand";
import { openPass } from "./masking";

export const neutral: Hand = {
  name: "neutral",
  title: "Neutral",
  icon: "hand-sample",
  how: "Press on something that is grey or white in truth",
  still: true,
  *gesture(first) {
    const { to } = yield* fromTo(first);
    const pass = openPass();
    const pass_id = pass?.kind === "white_balance" ? pass.id : null;
    useBench.getState().gesture({ op: "pick_neutral", x: to[0], y: to[1], pass_id });
  },
};

/** Screen pixels of a drag for the whole of a setting. */
const FULL_PX = 200;
const clamp = (v: number) => Math.round(Math.max(-100, Math.min(100, v)));

/** What a drag of (`dx`, `dy`) screen pixels says: to the right richer, up lighter. */
export function shiftOf(dx: number, dy: number) {
  return { richer: clamp((dx / FULL_PX) * 100), lighter: clamp((-dy / FULL_PX) * 100) };
}

async function hueAt(at: Point): Promise<number> {
  const found = await unwrap(
    client.GET("/api/portraits/{portrait_id}/sample", {
      params: { path: { portrait_id: useBench.getState().portrait!.id }, query: { x: at[0], y: at[1], seen: true } },
    }),
  );
  return found.hue;
}

/** The open pass of this kind takes the colour; else a drag makes a new pass. */
function operation(hue: number | null, moved: Point): Operation | null {
  if (hue === null) return null;
  const { richer, lighter } = shiftOf(...moved);
  const pass = openPass();
  const dragged = richer !== 0 || lighter !== 0;
  const settings: Record<string, number> = dragged ? { hue, richer, lighter } : { hue };
  if (pass?.kind === "picked_colour") return { op: "change_pass", id: pass.id, settings };
  return dragged ? { op: "add_pass", kind: "picked_colour", settings } : null;
}

export const hue: Hand = {
  name: "hue",
  title: "Colour",
  icon: "hand-sample",
  how: "Press on a colour and drag: right richer, up lighter",
  still: true,
  *gesture(first, work: Work) {
    let found: number | null = null;
    let moved: Point = [0, 0];
    let over = false;
    const show = (op: Operation | null) => (op ? work.painter?.showDraft([op], null) : work.painter?.endDraft());
    const save = () => {
      const op = operation(found, moved);
      if (op) useBench.getState().gesture(op, (outcome) => !outcome && work.painter?.endDraft());
      else work.painter?.endDraft();
    };
    hueAt(first.at).then(
      (value) => {
        found = value;
        // A press may end before its colour is known.
        if (over) save();
        else show(operation(found, moved));
      },
      (error: unknown) => useBench.setState({ problem: (error as ApiError).message }),
    );
    let ended = false;
    try {
      for (let now = first; !now.last; ) {
        now = yield;
        if (now.last) break;
        moved = [now.screen[0] - first.screen[0], now.screen[1] - first.screen[1]];
        show(operation(found, moved));
      }
      ended = true;
      if (found !== null) save();
    } finally {
      over = ended && found === null;
      if (!ended) work.painter?.endDraft();
    }
  },
};
