/** Hairs: a single one drawn, or many planted by a soft brush, like those beside them. */
import { Slider } from "../../ui/Slider";
import { useHand } from "../state/hand";
import type { Hand } from "./hand";
import { paint, stroke } from "./stroke";
import { Size, Strength, Switching } from "./values";

function Values() {
  const { hairs, hairLength, set } = useHand();
  const many = hairs === "many";
  return (
    <>
      <Switching
        label={many ? "Many" : "One"}
        title={many ? "Many hairs under the brush; click to draw single ones" : "One hair along each stroke; click to plant many"}
        icon={many ? "hand-brush" : "hand-strand"}
        onClick={() => set({ hairs: many ? "one" : "many" })}
      >
        {many ? "Many" : "One"}
      </Switching>
      {many && <Size />}
      {many && (
        <Slider
          label="Length"
          title="Of each hair"
          unit="px"
          min={2}
          max={200}
          initial={30}
          value={hairLength}
          onInput={(hairLength) => set({ hairLength })}
        />
      )}
      <Strength />
    </>
  );
}

export const hairs: Hand = {
  name: "hairs",
  title: "Hairs",
  icon: "hand-hairs",
  how: "Brush in the direction in which the hairs grow",
  brush: () => true,
  still: true,
  Values,
  *gesture(first) {
    const { hairs, hairLength, opacity } = useHand.getState();
    const seed = Math.floor(Math.random() * 10000);
    paint("hairs", yield* stroke(first), { way: hairs, length_px: hairLength, seed, opacity }, false, true);
  },
};
