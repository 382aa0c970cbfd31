/** All hands, by name; those of the tray in their order. */
import { useHand, type Mode } from "../state/hand";
import { blend } from "./blend";
import { borrow } from "./borrow";
import { clip } from "./clip";
import { clone } from "./clone";
import { dodgeBurn } from "./dodgeBurn";
import { ease } from "./ease";
import { face, iris, nudge } from "./faces";
import { fill } from "./fill";
import { gradient } from "./gradient";
import type { Hand } from "./hand";
import { hairline } from "./hairline";
import { hairs } from "./hairs";
import { heal } from "./heal";
import { lasso } from "./lasso";
import { hue, neutral } from "./neutral";
import { patch } from "./patch";
import { pick } from "./pick";
import { press } from "./press";
import { movePart } from "./movePart";
import { pull } from "./pull";
import { push } from "./push";
import { redEye } from "./redEye";
import { stain } from "./stain";
import { strands } from "./strands";
import { colour, zone } from "./zone";

const ALL = [
  heal, clone, patch, fill, blend, dodgeBurn, ease, redEye, borrow, hairs, clip, gradient, pick, press, neutral, hue, zone, colour, lasso, face, iris, nudge, push, pull, movePart, strands, hairline, stain,
];
export const HANDS = Object.fromEntries(ALL.map((h) => [h.name, h])) as Record<Mode, Hand>;
export const IN_TRAY = ALL.filter((h) => h.inTray);

export function isInTray(mode: string): mode is Mode {
  return IN_TRAY.some((h) => h.name === mode);
}

export function handNow(): Hand {
  return HANDS[useHand.getState().mode];
}

/** Take a hand; the one that is there already does the other of what it can. */
export function takeHand(mode: Mode) {
  const { mode: before, set } = useHand.getState();
  if (before === mode) HANDS[mode].again?.();
  else set(mode === "ease" ? { mode, reveal: false } : { mode });
}
