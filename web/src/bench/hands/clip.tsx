/** Clip: an outline within which the open pass acts. */
import type { Area } from "../../api/client";
import { Slider } from "../../ui/Slider";
import { useHand } from "../state/hand";
import { useOutline } from "../state/outline";
import type { Hand } from "./hand";
import { addArea } from "./masking";
import { outline, takesOutlines } from "./outlining";
import { FormChoice, Switching } from "./values";

takesOutlines("clip", {
  take: (points) => {
    const { clipFeather: feather_px, clipOutside: invert } = useHand.getState();
    const area: Area = { kind: "outline", way: "add", invert, points, feather_px };
    addArea(area, "Clip", () => useOutline.getState().clear());
  },
});

function Values() {
  const { clipOutside, clipFeather, set } = useHand();
  return (
    <>
      <FormChoice />
      <Switching
        active={clipOutside}
        title="Let the pass act outside of the outline instead"
        onClick={() => set({ clipOutside: !clipOutside })}
      >
        {clipOutside ? "Outside" : "Inside"}
      </Switching>
      <Slider
        label="Feather"
        title="Width over which the clip's edge fades"
        unit="px"
        min={0}
        max={200}
        initial={1}
        value={clipFeather}
        onInput={(clipFeather) => set({ clipFeather })}
      />
    </>
  );
}

export const clip: Hand = {
  name: "clip",
  title: "Clip",
  icon: "hand-clip",
  how: "Outline where the open pass may act",
  outlines: () => true,
  still: true,
  Values,
  gesture: outline,
};
