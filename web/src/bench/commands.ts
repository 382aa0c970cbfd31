/** What the keys, and needs that are said, have the bench do. */
import type { QueryClient } from "@tanstack/react-query";
import type { Kind, Pass } from "../api/client";
import { isInTray, takeHand } from "./hands";
import { takeOutline } from "./hands/outlining";
import type { Action } from "./keys";
import { movePass, pickedOnes, useBench } from "./state/bench";
import { MODES, ORIGINAL, RESULT, useCompare } from "./state/compare";
import { useFaces, type ZoneShow } from "./state/faces";
import { RING_MODES, useHand } from "./state/hand";
import { kindsNow } from "./state/kinds";
import { useLight } from "./state/light";
import { findTouch } from "./state/model";
import { FORMS, useOutline } from "./state/outline";
import { backAndForth, bandShown, showBand } from "./state/seeing";
import { useSweep } from "./state/sweep";
import { keepTake } from "./state/takes";
import { useView } from "./state/view";

/** What of the page itself a command may ask for. */
export interface Page {
  thread: () => void;
  find: () => void;
  help: () => void;
  queries: QueryClient;
}

const SIZE_STEP = 1.12;
const SOFT_STEP = 5;
const BAND_SHOWS = ["off", "whole", "glass"] as const;
const ZONE_SHOWS: ZoneShow[] = ["off", "tint", "mask", "glass"];

function removePicked() {
  const ids = pickedOnes();
  if (ids.length === 1) useBench.getState().gesture({ op: "remove_touch", id: ids[0]! });
  if (ids.length > 1) useBench.getState().gesture({ op: "remove_touches", ids });
}

/** The passes that a pass is shown with: those of its stage. */
function beside(passes: readonly Pass[], id: string, kinds: readonly Kind[]): Pass[] {
  const stage = kinds.find((k) => k.name === passes.find((p) => p.id === id)?.kind)?.stage;
  return passes.filter((p) => kinds.some((k) => k.name === p.kind && k.stage === stage && !k.guide && k.way !== "frame" && k.way !== "develop"));
}

/** Carry out a command; ``down`` is false where the key of one that lasts is let go. */
export function carryOut(action: Action, down: boolean, page: Page): unknown {
  const bench = useBench.getState();
  const hand = useHand.getState();
  const view = useView.getState();
  const compare = useCompare.getState();
  const soften = (by: number) => hand.set({ softness: Math.min(Math.max(hand.softness + by, 0), 100) });
  switch (action) {
    case "original":
      return compare.set({ held: down ? ORIGINAL : null });
    case "without":
      if (!bench.openPass) return;
      return compare.set({ held: down ? { show: "without", of: bench.openPass } : null });
    case "compare": {
      const modes = MODES.map((m) => m.mode);
      return compare.set({ mode: modes[(modes.indexOf(compare.mode) + 1) % modes.length]! });
    }
    case "back":
      return backAndForth();
    case "maskShow": {
      if (!bench.openPass) return;
      const shows = ["result", "tint", "mask", "effect"] as const;
      const at = shows.findIndex((s) => s === compare.instead.show);
      const next = shows[(at + 1) % shows.length]!;
      return compare.set({ instead: next === "result" ? RESULT : { show: next, of: bench.openPass } });
    }
    case "passUp":
    case "passDown":
      return bench.openPass && movePass(bench.openPass, action === "passUp" ? 1 : -1, beside(bench.passes, bench.openPass, kindsNow()));
    case "keepTake":
      return bench.portrait && void keepTake(bench.portrait.id, page.queries);
    case "thread":
      return page.thread();
    case "find":
      return page.find();
    case "bare": {
      const { bare, set } = useLight.getState();
      return set({ bare: !bare });
    }
    case "pan":
      return hand.set({ panning: down });
    case "smaller":
      return hand.grow(1 / SIZE_STEP);
    case "larger":
      return hand.grow(SIZE_STEP);
    case "harder":
      return soften(-SOFT_STEP);
    case "softer":
      return soften(SOFT_STEP);
    case "fit":
      return view.fit();
    case "actual":
      return view.zoomTo(1 / window.devicePixelRatio);
    case "zoomIn":
      return view.zoomStep(1);
    case "zoomOut":
      return view.zoomStep(-1);
    case "glass":
      return hand.set({ glass: !hand.glass });
    case "rings":
      return hand.set({
        rings: RING_MODES[(RING_MODES.indexOf(hand.rings) + 1) % RING_MODES.length],
      });
    case "undo":
      return bench.undo();
    case "redo":
      return bench.redo();
    case "unpick":
      hand.set({ mode: isInTray(hand.mode) ? hand.mode : "heal", chosen: null });
      useOutline.getState().set({ nodes: [], closed: false, sparing: false });
      useSweep.getState().end();
      useFaces.getState().set({ selected: [] });
      return bench.pick(null);
    case "heal":
    case "clone":
    case "patch":
    case "fill":
    case "blend":
    case "dodge_burn":
    case "ease":
      return takeHand(action);
    case "band": {
      const now = bandShown(hand.band, compare.instead, compare.inGlass, hand.glass);
      const next = BAND_SHOWS[(BAND_SHOWS.indexOf(now) + 1) % BAND_SHOWS.length]!;
      return hand.band === "all" ? bench.say("Choose a band first, under By size.") : showBand(hand.band, next);
    }
    case "form": {
      const { form, set } = useOutline.getState();
      return set({ form: FORMS[(FORMS.indexOf(form) + 1) % FORMS.length]!, nodes: [], closed: false });
    }
    case "confirm": {
      const { closed, nodes, set } = useOutline.getState();
      if (!closed && nodes.length >= 3) set({ closed: true });
      if (closed || hand.mode !== "patch") takeOutline();
      return;
    }
    case "again": {
      const found = findTouch(bench.passes, bench.picked);
      if (found?.touch.values["seed"] === undefined) return;
      const seed = (Number(found.touch.values["seed"] ?? 0) + 1) % 10000;
      return bench.gesture({ op: "change_touch", id: found.touch.id, values: { seed } });
    }
    case "duplicate": {
      const ids = pickedOnes();
      return ids.length && bench.gesture({ op: "duplicate_touches", ids });
    }
    case "touchSwitch": {
      const ids = pickedOnes();
      const first = findTouch(bench.passes, ids[0] ?? null);
      return first && bench.gesture({ op: "change_touches", ids, enabled: !first.touch.enabled });
    }
    case "sweepOn":
      return useSweep.getState().step(1);
    case "sweepBack":
      return useSweep.getState().step(-1);
    case "marks": {
      const faces = useFaces.getState();
      return faces.set({ marksShown: !faces.marksShown, selected: [] });
    }
    case "zone": {
      const faces = useFaces.getState();
      const next = ZONE_SHOWS[(ZONE_SHOWS.indexOf(faces.zoneShow) + 1) % ZONE_SHOWS.length]!;
      if (next === "glass") hand.set({ glass: true });
      return faces.set({ zoneShow: next });
    }
    case "remove":
      return removePicked();
    case "newSource":
      return (
        bench.picked &&
        bench.gesture({ op: "change_touch", id: bench.picked, new_source: true })
      );
    case "otherSide":
      return (
        bench.picked &&
        bench.gesture({ op: "change_touch", id: bench.picked, mirrored: true })
      );
    case "passSwitch": {
      const pass = bench.passes.find((p) => p.id === bench.openPass);
      return (
        pass && bench.gesture({ op: "change_pass", id: pass.id, enabled: !pass.enabled })
      );
    }
    case "help":
      return page.help();
  }
}
