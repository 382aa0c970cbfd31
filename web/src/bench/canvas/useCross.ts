/** The hand by keys: a cross on the focused picture that arrows move; Enter dabs, Shift and Enter presses and lets go. */
import { useCallback, useState, type KeyboardEvent, type RefObject } from "react";
import type { Point } from "../../api/client";
import { handNow } from "../hands";
import type { At } from "../hands/hand";
import { closeOutline } from "../hands/outlining";
import { useFraming } from "../state/framing";
import { useHand } from "../state/hand";
import { useOutline } from "../state/outline";
import { useView } from "../state/view";
import { crossStep } from "./crossing";
import { toPicture } from "./viewport";

/** What the pointer does, by places. */
export interface Pressing {
  press: (at: At) => void;
  drag: (at: At) => void;
  release: (at: At) => void;
  cancel: () => void;
}

export function useCross(box: RefObject<HTMLDivElement | null>, pressing: Pressing) {
  const [cross, setCross] = useState<Point | null>(null);
  const [held, setHeld] = useState(false);
  const placeOf = ([px, py]: Point, alt = false, last = false): At => {
    const bounds = box.current!.getBoundingClientRect();
    return { at: toPicture(useView.getState().view, px, py), screen: [bounds.x + px, bounds.y + py], pressure: null, alt, last };
  };
  const away = useCallback(() => {
    setCross(null);
    setHeld(false);
  }, []);

  const onKeyDown = (event: KeyboardEvent) => {
    if (event.target !== event.currentTarget || useFraming.getState().open) return;
    const { screen, panBy } = useView.getState();
    const at = cross ?? [screen.width / 2, screen.height / 2];
    if (event.key.startsWith("Arrow")) {
      const moved = crossStep(at, event.key, { far: event.shiftKey, fine: event.ctrlKey || event.metaKey }, screen);
      // At the border the picture moves instead.
      if (moved.pan[0] || moved.pan[1]) panBy(...moved.pan);
      setCross(moved.at);
      if (held) pressing.drag(placeOf(moved.at));
    } else if (event.key === "Enter" && cross) {
      if (held || event.shiftKey) {
        if (held) pressing.release(placeOf(cross, false, true));
        else pressing.press(placeOf(cross));
        setHeld(!held);
      } else dab(cross, event.altKey);
    } else if (event.key === "Escape" && cross) {
      pressing.cancel();
      away();
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };

  const dab = (at: Point, alt: boolean) => {
    const hand = handNow();
    const first = placeOf(at, alt);
    if (alt && hand.takes) return useHand.getState().set({ chosen: { x: first.at[0], y: first.at[1], offset: null } });
    // A second dab at the last node closes an outline.
    const { nodes, closed } = useOutline.getState();
    const last = nodes.at(-1);
    if (hand.outlines?.() && !closed && nodes.length >= 3 && last && Math.hypot(last[0] - first.at[0], last[1] - first.at[1]) < 1) return closeOutline();
    pressing.press(first);
    pressing.release(placeOf(at, alt, true));
  };
  return { cross, held, away, onKeyDown };
}
