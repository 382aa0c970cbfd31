/** Heal: a click or stroke is replaced by clean skin from nearby. */
import type { Hand } from "./hand";
import { paint, stroke, unlessKept } from "./stroke";
import { Size, Softness, Strength } from "./values";

export const heal: Hand = {
  name: "heal",
  title: "Heal",
  icon: "hand-heal",
  how: "A click or stroke heals with clean skin from nearby",
  inTray: true,
  brush: () => true,
  takes: true,
  Values: () => (
    <>
      <Size />
      <Softness />
      <Strength />
    </>
  ),
  *gesture(first) {
    const done = yield* stroke(first);
    unlessKept(done, "Heal", () => paint("heal", done, {}, true));
  },
};
