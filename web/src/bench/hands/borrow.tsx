/** Borrow: an outlined place taken from the other portrait that is chosen. */
import { useBench } from "../state/bench";
import { useFaces } from "../state/faces";
import { useOther } from "../state/other";
import { useOutline } from "../state/outline";
import type { Hand } from "./hand";
import { outline, takesOutlines } from "./outlining";
import { openAdded } from "./stroke";
import { FormChoice } from "./values";

takesOutlines("borrow", {
  take: (path) => {
    const { id } = useOther.getState();
    if (id === null) return;
    const { analysis, face } = useFaces.getState();
    const whose = (analysis?.faces.length ?? 0) > 1 ? (analysis?.faces[face]?.anchor ?? null) : null;
    useBench.getState().gesture({ op: "borrow", portrait: id, part: "outline", face: whose, path }, (outcome) => {
      if (outcome) useOutline.getState().clear();
      openAdded(outcome);
    });
  },
});

export const borrow: Hand = {
  name: "borrow",
  title: "Borrow",
  icon: "hand-borrow",
  how: "Outline what is to be taken from the other portrait",
  outlines: () => true,
  Values: FormChoice,
  gesture: outline,
};
