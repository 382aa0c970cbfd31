/** The painter of the open portrait: made with it, told what to show, ended with it. */
import { useEffect, useRef, type RefObject } from "react";
import { ownWindow, pictures } from "./pictures";
import { pxPerMm } from "../state/bands";
import { useBench } from "../state/bench";
import { useCompare } from "../state/compare";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";
import { useView } from "../state/view";
import { useTones } from "../state/tones";
import { GAP, Painter } from "./Painter";
import type { Frame } from "./frame";
import type { Size } from "./viewport";

export function usePainter(
  painterRef: RefObject<Painter | null>,
  box: RefObject<HTMLDivElement | null>,
  canvas: RefObject<HTMLCanvasElement | null>,
  id: string | undefined,
  frame: Frame | null,
): RefObject<Size> {
  const full = useRef<Size>({ width: 1, height: 1 });
  const compare = useCompare();
  const glass = useHand((s) => s.glass);
  const lens = useHand((s) => s.lens);
  const divide = useHand((s) => s.divide);
  const setScreen = useView((s) => s.setScreen);

  // First how large the picture is on the screen: what is asked for hangs on it.
  useEffect(() => {
    const element = box.current!;
    const measure = () => {
      const { width, height } = element.getBoundingClientRect();
      const screen = {
        width: compare.mode === "side" ? Math.floor((width - GAP) / 2) : width,
        height: compare.mode === "stack" ? Math.floor((height - GAP) / 2) : height,
      };
      full.current = { width, height };
      setScreen(screen);
      painterRef.current?.resize(full.current, screen, window.devicePixelRatio);
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, [setScreen, painterRef, box, compare.mode]);

  useEffect(() => {
    if (!id || !frame) return;
    const painter = new Painter({
      picture: { width: frame.width, height: frame.height },
      canvas: canvas.current!,
      pictures: pictures(id, ownWindow(), frame.key),
      onError: (error) =>
        // Another window has changed the portrait: follow it, nothing is wrong.
        error.status !== 409
          ? useBench.setState({ problem: error.message })
          : // A gesture of this one's own brings the picture up to date by itself.
            useBench.getState().saving === "saved" && void useBench.getState().catchUp(),
      // Told to the element itself: nothing else has to be drawn anew for it.
      onPainted: () => useTones.getState().painted(canvas.current!),
      onSharp: (sharp) => (box.current!.dataset["sharp"] = String(sharp)),
    });
    painterRef.current = painter;
    const { view, screen } = useView.getState();
    // First which state is meant: what is asked for of an older one would be refused.
    const { revision, faces } = useBench.getState();
    painter.start(revision, useFaces.getState().analysis?.key || faces);
    painter.look(view);
    painter.resize(full.current, screen, window.devicePixelRatio);
    const unfollow = useBench.getState().follow({
      painted: (outcome) => painter.changed(outcome.revision, outcome.dirty, outcome.pixels),
      reloaded: (revision) => void painter.reload(revision),
      seen: () => painter.seen(),
    });
    // Told before anything is drawn anew for it: the pixels are asked for at once.
    const deaf = useView.subscribe((now, before) => now.view !== before.view && painter.look(now.view));
    // Passes that act on zones look different once the faces are known, or known anew.
    const deafToo = useFaces.subscribe((now) => painter.knows(now.analysis?.key ?? ""));
    const deafThree = useBench.subscribe((now, before) => now.saving !== before.saving && now.saving === "saving" && painter.restDraft());
    return () => {
      deaf();
      deafThree();
      deafToo();
      unfollow();
      painter.close();
      painterRef.current = null;
    };
  }, [id, frame, painterRef, box, canvas]);

  useEffect(
    () =>
      painterRef.current?.arrange({
        instead: compare.instead,
        held: compare.held,
        lens: glass ? lens : null,
        inGlass: compare.inGlass,
        compare,
        sizes: { px_per_mm: Math.min(Math.max(pxPerMm(), 0.2), 300), divide_mm: divide },
      }),
    [compare, glass, lens, divide, painterRef, id, frame],
  );
  return full;
}
