/** Has the server make what the hand is about to need, while the hand is still on its way, and what is looked at next. */
import { useEffect, type RefObject } from "react";
import { client } from "../../api/client";
import { useBench } from "../state/bench";
import { useHand } from "../state/hand";
import { nextGrid, useView } from "../state/view";
import { ownWindow } from "./pictures";
import type { Painter } from "./Painter";
import type { Grid } from "./viewport";

/** A view that hasn't moved for so long is one to paint on; where nothing happens for so long, the next look is guessed. */
const REST_MS = 200;
const CALM_MS = 1000;
/** What was asked for so far of one state of a portrait: it is at hand. */
let known = { of: "", grids: new Set<string>() };

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
  ask(portrait.id, { pass_id: openPass, hand, seen });
  return true;
}

/** Only a help: without it what comes takes longer. */
function ask(id: string, body: { pass_id: string; hand: "slider" | "stroke" | "look"; seen: Grid }) {
  client
    .POST("/api/portraits/{portrait_id}/ready", {
      params: { path: { portrait_id: id } },
      body: { ...body, window: `${ownWindow()}-ready`, number },
    })
    .catch(() => undefined);
}

/** Begin to make what the keys for one to one and for the whole picture would show; false while the view isn't there. */
function guessNext(painter: Painter | null): boolean {
  const { portrait, revision, saving } = useBench.getState();
  const seen = painter?.settled();
  if (!portrait || !seen || saving !== "saved" || document.visibilityState !== "visible") return false;
  const of = `${portrait.id} ${revision}`;
  if (known.of !== of) known = { of, grids: new Set() };
  known.grids.add(JSON.stringify(seen));
  const next = nextGrid();
  if (!next || known.grids.has(JSON.stringify(next))) return true;
  known.grids.add(JSON.stringify(next));
  number += 1;
  ask(portrait.id, { pass_id: "", hand: "look", seen: next });
  return true;
}

/** Guess once nothing has happened for a while: no other view, no gesture. */
export function useGuessing(painterRef: RefObject<Painter | null>) {
  const view = useView((s) => s.view);
  const revision = useBench((s) => s.revision);
  const saving = useBench((s) => s.saving);
  useEffect(() => {
    let rested = false;
    const look = () => {
      // What was shown just now may have taken long.
      const settled = !!painterRef.current?.settled();
      if (settled && rested && guessNext(painterRef.current)) return;
      rested = settled;
      timer = window.setTimeout(look, CALM_MS);
    };
    let timer = window.setTimeout(look, CALM_MS);
    return () => window.clearTimeout(timer);
  }, [view, revision, saving, painterRef]);
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
