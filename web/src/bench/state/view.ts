/** Where the bench looks. */
import { create } from "zustand";
import * as viewport from "../canvas/viewport";
import { around, forthOf, type Frame } from "../canvas/frame";
import type { Size, View } from "../canvas/viewport";

interface ViewState {
  view: View;
  screen: Size;
  picture: Size;
  fitted: boolean;
  /** Where the bench looked before the whole picture was fitted. */
  closeUp: View | null;
  /** The picture as it is framed now; another portrait's is fitted, else the look stays where it is. */
  setFrame: (frame: Frame, anew: boolean) => void;
  setScreen: (screen: Size) => void;
  zoomAt: (factor: number, px: number, py: number) => void;
  zoomStep: (direction: 1 | -1) => void;
  zoomTo: (scale: number, px?: number, py?: number) => void;
  panBy: (dx: number, dy: number) => void;
  /** Bring a place of the original to the middle. */
  centre: (x: number, y: number) => void;
  /** Bring a place of the framed picture to the middle. */
  centreFramed: (x: number, y: number) => void;
  /** Show a rectangle of the original (x0, y0, x1, y1) as large as it fits, one to one at most. */
  show: (rect: readonly number[]) => void;
  fit: () => void;
  lookAgain: (view: View) => void;
  toggleFit: (px: number, py: number) => void;
}

const ratio = () => window.devicePixelRatio || 1;
/** One to one means one pixel of the original on one of the screen. */
const actual = () => 1 / ratio();

export const useView = create<ViewState>((set, get) => {
  const look = (view: View, fitted = false) => set({ view: viewport.snap(view, ratio()), fitted });
  const zoom = (factor: number, px: number, py: number) => {
    const { view, picture, screen } = get();
    look(viewport.zoomAt(view, factor, px, py, picture, screen));
  };
  return {
    view: { scale: 1, x: 0, y: 0 },
    screen: { width: 1, height: 1 },
    picture: { width: 1, height: 1 },
    fitted: true,
    closeUp: null,
    setFrame: (frame, anew) => {
      const { view, screen, fitted } = get();
      const picture = { width: frame.width, height: frame.height };
      if (anew || fitted) {
        set({ picture, fitted: true, closeUp: anew ? null : get().closeUp, view: { ...view, frame } });
        return get().fit();
      }
      const [x, y] = viewport.toPicture(view, screen.width / 2, screen.height / 2);
      set({ picture, view: { ...view, frame } });
      get().centre(x, y);
    },
    setScreen: (screen) => {
      const { fitted, view, picture } = get();
      set({ screen });
      if (fitted) get().fit();
      else look(viewport.clamp(view, picture, screen));
    },
    zoomAt: zoom,
    zoomTo: (scale, px, py) => {
      const { view, screen } = get();
      zoom(scale / view.scale, px ?? screen.width / 2, py ?? screen.height / 2);
    },
    zoomStep: (direction) => {
      const { view } = get();
      const steps = viewport.STEPS.map((s) => s * actual());
      const next =
        direction > 0
          ? steps.find((s) => s > view.scale * 1.001)
          : steps.findLast((s) => s < view.scale * 0.999);
      if (next) get().zoomTo(next);
    },
    panBy: (dx, dy) => {
      const { view, picture, screen } = get();
      const moved = { ...view, x: view.x - dx / view.scale, y: view.y - dy / view.scale };
      look(viewport.clamp(moved, picture, screen));
    },
    centre: (x, y) => get().centreFramed(...forthOf(get().view.frame, x, y)),
    centreFramed: (x, y) => {
      const { view, picture, screen } = get();
      const moved = {
        ...view,
        x: x - screen.width / view.scale / 2,
        y: y - screen.height / view.scale / 2,
      };
      look(viewport.clamp(moved, picture, screen));
    },
    show: (rect) => {
      const { screen, view } = get();
      const [x0, y0, x1, y1] = around(view.frame, rect);
      const room = 0.8 * Math.min(screen.width / (x1 - x0 || 1), screen.height / (y1 - y0 || 1));
      get().zoomTo(Math.min(room, actual()));
      get().centreFramed((x0 + x1) / 2, (y0 + y1) / 2);
    },
    fit: () => {
      const { picture, screen, fitted, view } = get();
      if (!fitted) set({ closeUp: view });
      if (screen.width > 1) look({ ...view, ...viewport.fit(picture, screen) }, true);
    },
    lookAgain: (view) => look(viewport.clamp({ ...view, frame: get().view.frame }, get().picture, get().screen)),
    toggleFit: (px, py) => {
      if (get().fitted) get().zoomTo(actual(), px, py);
      else get().fit();
    },
  };
});

/** The pixels that one to one would show of the whole picture, or the whole picture of anything else. */
export function nextGrid(): viewport.Grid | null {
  const { view, picture, screen, fitted } = useView.getState();
  const next = fitted
    ? viewport.zoomAt(view, actual() / view.scale, screen.width / 2, screen.height / 2, picture, screen)
    : { ...view, ...viewport.fit(picture, screen) };
  return viewport.gridOf(viewport.snap(next, ratio()), picture, screen, ratio());
}
