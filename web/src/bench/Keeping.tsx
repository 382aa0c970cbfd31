/** What keeps step with the edit; shows nothing, so that little is drawn anew for it. */
import { useEffect, useRef } from "react";
import { usePreferences } from "../session/preferences";
import { useSettled } from "../ui/useSettled";
import { seen } from "./canvas/viewport";
import { useBench, useBenchParts } from "./state/bench";
import { ORIGINAL, RESULT, stillThere, useCompare } from "./state/compare";
import { useFaces } from "./state/faces";
import { useView } from "./state/view";
import { Telling } from "./state/windows";

/** Keeps other windows of this portrait in step. */
export function Telltale() {
  const { portrait, revision, frame } = useBenchParts("portrait", "revision", "frame");
  const { view, screen, picture } = useView();
  const telling = useRef<Telling | null>(null);
  useEffect(() => {
    telling.current = new Telling();
    return () => telling.current?.end();
  }, []);
  const part = seen(view, picture, screen);
  const { x0, y0, x1, y1 } = part;
  useEffect(() => {
    if (portrait && frame) telling.current?.tell({ id: portrait.id, revision, seen: [x0, y0, x1, y1], size: [frame.width, frame.height], frame: frame.key });
  }, [portrait, revision, frame, x0, y0, x1, y1]);
  return null;
}

/** Keeps what hangs on the edit up to date. */
export function Keeping() {
  const { passes, revision } = useBenchParts("passes", "revision");

  // What was healed shows on the face map when the hand rests.
  const settledRevision = useSettled(revision, 900);
  // As the portrait was opened, its faces were asked for already.
  const known = useRef(revision);
  useEffect(() => {
    if (settledRevision === known.current) return;
    known.current = settledRevision;
    void useFaces.getState().refresh();
  }, [settledRevision]);

  useEffect(() => {
    const back = () => {
      const { waiting, catchUp } = useBench.getState();
      if (document.visibilityState === "visible" && waiting === 0) void catchUp();
    };
    document.addEventListener("visibilitychange", back);
    return () => document.removeEventListener("visibilitychange", back);
  }, []);

  // A brush, a look or settings that couldn't be kept, wherever that was asked for.
  const unkept = usePreferences((s) => s.problem);
  useEffect(() => {
    if (unkept) useBench.getState().say(unkept);
  }, [unkept]);

  // Nothing may go on showing a pass that is gone.
  useEffect(() => {
    const { against, instead, inGlass, set } = useCompare.getState();
    if (!stillThere(instead, passes)) set({ instead: RESULT });
    if (!stillThere(inGlass, passes)) set({ inGlass: ORIGINAL });
    if (!stillThere(against, passes)) set({ mode: "off", against: ORIGINAL });
  }, [passes]);
  return null;
}
