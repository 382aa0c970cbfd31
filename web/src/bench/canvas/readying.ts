/** Has the server make what the hand is about to need, while the hand is still on its way. */
import { useEffect, type RefObject } from "react";
import { client } from "../../api/client";
import { useBench } from "../state/bench";
import { useHand } from "../state/hand";
import { useView } from "../state/view";
import { ownWindow } from "./pictures";
import type { Painter } from "./Painter";

/** A view that hasn't moved for so long is one to paint on. */
const REST_MS = 200;

let last = "";
let number = 0;

/**
 * Begin to make what the first slider move or mask stroke of the open pass needs in the present
 * view. False where that isn't known yet: the view isn't sharp, or something is being saved.
 */
export function makeReady(hand: "slider" | "stroke", painter: Painter | null): boolean {
  const { portrait, openPass, revision, saving } = useBench.getState();
  const seen = painter?.seen();
  if (!portrait || !openPass || !seen || saving !== "saved") return false;
  // Strokes leave what they need as it is; any other change of the edit can be one below a slider.
  const key = JSON.stringify([hand, portrait.id, openPass, seen, hand === "slider" ? revision : 0]);
  if (key === last) return true;
  last = key;
  number += 1;
  // Only a help: without it the first move takes longer.
  client
    .POST("/api/portraits/{portrait_id}/ready", {
      params: { path: { portrait_id: portrait.id } },
      body: { pass_id: openPass, hand, seen, window: `${ownWindow()}-ready`, number },
    })
    .catch(() => undefined);
  return true;
}

/** Make ready for strokes on the mask of the open pass once the view rests. */
export function useReadying(painterRef: RefObject<Painter | null>) {
  const easing = useHand((s) => s.mode === "ease");
  const pass = useBench((s) => s.openPass);
  const view = useView((s) => s.view);
  useEffect(() => {
    if (!easing || !pass) return;
    const look = () => {
      if (!makeReady("stroke", painterRef.current)) timer = window.setTimeout(look, REST_MS);
    };
    let timer = window.setTimeout(look, REST_MS);
    return () => window.clearTimeout(timer);
  }, [easing, pass, view, painterRef]);
}
