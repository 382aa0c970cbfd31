/** The pointer over the picture: moves it, and drives the gesture of the hand. */
import { useCallback, useEffect, useRef, type PointerEvent, type RefObject } from "react";
import type { Point } from "../../api/client";
import { useDrawn } from "../hands/drawn";
import type { At, Gesture, Work } from "../hands/hand";
import { handNow } from "../hands";
import { useBench } from "../state/bench";
import { useCompare } from "../state/compare";
import { useFraming } from "../state/framing";
import { useHand } from "../state/hand";
import { useView } from "../state/view";
import type { Painter } from "./Painter";
import type { Pressing } from "./useCross";
import { toPicture, type Size } from "./viewport";

/** Begins a gesture at a press; the event goes no further. */
export type Begin = (event: PointerEvent, gesture: (first: At, work: Work) => Gesture) => void;

export function usePointer(
  painterRef: RefObject<Painter | null>,
  box: RefObject<HTMLDivElement | null>,
  full: RefObject<Size>,
) {
  const pan = useRef<Point | null>(null);
  const running = useRef<Gesture | null>(null);

  useEffect(() => {
    const element = box.current!;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      if (useFraming.getState().open) return;
      const bounds = box.current!.getBoundingClientRect();
      if (event.altKey) return useHand.getState().grow(Math.exp(-event.deltaY * 0.0015));
      // A pinch on a touchpad arrives as a wheel with Ctrl and small steps.
      const speed = event.ctrlKey ? 0.01 : event.deltaMode === 1 ? 0.05 : 0.0015;
      useView
        .getState()
        .zoomAt(Math.exp(-event.deltaY * speed), event.clientX - bounds.left, event.clientY - bounds.top);
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [box]);

  const cancel = useCallback(() => {
    pan.current = null;
    running.current?.return();
    running.current = null;
  }, []);
  // A gesture under way ends with the picture it is made on.
  useEffect(() => cancel, [cancel]);

  const local = (event: PointerEvent): Point => {
    const bounds = box.current!.getBoundingClientRect();
    const [x, y] = [event.clientX - bounds.left, event.clientY - bounds.top];
    const { screen } = useView.getState();
    // In the second picture of two the hand does the same as in the first.
    const { mode } = useCompare.getState();
    const dx = mode === "side" ? full.current.width - screen.width : 0;
    const dy = mode === "stack" ? full.current.height - screen.height : 0;
    return (dx && x >= dx) || (dy && y >= dy) ? [x - dx, y - dy] : [x, y];
  };

  const placeOf = (event: PointerEvent, last = false): At => ({
    at: toPicture(useView.getState().view, ...local(event)),
    screen: [event.clientX, event.clientY],
    pressure: event.pointerType === "pen" ? event.pressure : null,
    alt: event.altKey,
    last,
  });

  const start = (first: At, gesture: (first: At, work: Work) => Gesture) => {
    cancel();
    const begun = gesture(first, { painter: painterRef.current });
    running.current = begun.next().done ? null : begun;
  };
  const drag = (at: At) => {
    if (running.current?.next(at).done) running.current = null;
  };
  const release = (at: At) => {
    const ending = running.current;
    running.current = null;
    ending?.next(at);
  };
  const begin: Begin = (event, gesture) => {
    box.current!.setPointerCapture(event.pointerId);
    start(placeOf(event), gesture);
  };
  /** The same by places, for who has no pointer. */
  const pressing: Pressing = { press: (at) => !busy() && start(at, handNow().gesture), drag, release, cancel };

  const busy = () => useHand.getState().panning || useCompare.getState().held !== null;

  const down = (event: PointerEvent) => {
    const hand = useHand.getState();
    if (event.button === 1 || (event.button === 0 && hand.panning)) {
      event.currentTarget.setPointerCapture(event.pointerId);
      pan.current = [event.clientX, event.clientY];
      return;
    }
    if (event.button !== 0 || busy()) return;
    if (event.pointerType === "pen" && !hand.penSeen) hand.set({ penSeen: true });
    const { picture, view } = useView.getState();
    const [px, py] = local(event);
    const [x, y] = [view.x + px / view.scale, view.y + py / view.scale];
    const beside = x < -hand.radius || y < -hand.radius || x > picture.width + hand.radius || y > picture.height + hand.radius;
    if (beside) return useBench.getState().pick(null);
    const now = handNow();
    if (event.altKey && now.takes) return hand.set({ chosen: { x, y, offset: null } });
    begin(event, now.gesture);
  };

  const move = (event: PointerEvent) => {
    useDrawn.setState({ pointer: local(event) });
    if (pan.current) {
      useView.getState().panBy(event.clientX - pan.current[0], event.clientY - pan.current[1]);
      pan.current = [event.clientX, event.clientY];
    } else if (running.current) drag(placeOf(event));
  };

  const up = (event: PointerEvent) => {
    pan.current = null;
    if (running.current) release(placeOf(event, true));
  };

  const leave = () => useDrawn.setState({ pointer: null });

  return { begin, busy, pressing, on: { onPointerDown: down, onPointerMove: move, onPointerUp: up, onPointerCancel: cancel, onPointerLeave: leave } };
}
