import { beforeEach, describe, expect, it } from "vitest";
import type { Frame } from "../canvas/frame";
import { gridOf, STEPS, toPicture } from "../canvas/viewport";
import { nextGrid, useView } from "./view";

const plain = (width: number, height: number) => ({ width, height }) as Frame;
const view = () => useView.getState();
const middle = () => toPicture(view().view, view().screen.width / 2, view().screen.height / 2);
const near = (found: readonly number[], wanted: readonly number[], off = 0.6) =>
  found.forEach((v, n) => expect(Math.abs(v - wanted[n]!)).toBeLessThan(off));

describe("where the bench looks", () => {
  beforeEach(() => {
    useView.setState({ view: { scale: 1, x: 0, y: 0 }, fitted: true, closeUp: null });
    view().setScreen({ width: 800, height: 600 });
    view().setFrame(plain(4000, 3000), true);
  });

  it("begins with the whole picture, and follows the window's size as long as it is fitted", () => {
    expect(view().fitted).toBe(true);
    const { scale } = view().view;
    expect(scale * 4000).toBeLessThanOrEqual(800);
    expect(scale * 3000).toBeLessThanOrEqual(600);
    expect(scale * 4000).toBeGreaterThan(650);
    near(middle(), [2000, 1500], 3);
    view().setScreen({ width: 400, height: 600 });
    expect(view().view.scale * 4000).toBeLessThanOrEqual(400);
    expect(view().view.scale).toBeLessThan(scale);
    expect(view().fitted).toBe(true);
  });

  it("zooms around the pointer: what lies under it stays there", () => {
    for (const [px, py] of [[400, 300], [330, 250]] as const) {
      view().fit();
      const before = toPicture(view().view, px, py);
      view().zoomAt(3, px, py);
      expect(view().fitted).toBe(false);
      // To a pixel of the screen, on which views begin.
      near(toPicture(view().view, px, py), before, 1.1 / view().view.scale);
    }
  });

  it("steps through the scales, each once, one to one among them, and not beyond the last", () => {
    const seen: number[] = [];
    for (let n = 0; n < STEPS.length + 3; n++) {
      view().zoomStep(1);
      seen.push(view().view.scale);
    }
    expect(seen).toContain(1);
    const ups = seen.filter((s, n) => n === 0 || s !== seen[n - 1]);
    expect(ups).toEqual([...ups].sort((a, b) => a - b));
    expect(ups.at(-1)).toBe(STEPS.at(-1));
    view().zoomStep(-1);
    expect(view().view.scale).toBe(STEPS.at(-2));
  });

  it("shows a rectangle as large as it fits, one to one at most", () => {
    view().show([1000, 1000, 1100, 1050]);
    expect(view().view.scale).toBe(1);
    near(middle(), [1050, 1025]);
    view().show([500, 500, 3500, 2500]);
    expect(view().view.scale).toBeLessThan(0.25);
    near(middle(), [2000, 1500], 3);
  });

  it("can't be moved off the picture", () => {
    view().zoomTo(1);
    view().panBy(-1e6, 1e6);
    const [x0, y0] = toPicture(view().view, 0, 0);
    const [x1, y1] = toPicture(view().view, 800, 600);
    expect(x0).toBeLessThan(4000);
    expect(y0).toBeLessThan(3000);
    expect(x1).toBeGreaterThan(0);
    expect(y1).toBeGreaterThan(0);
  });

  it("goes from the whole to one to one where it was pressed, and back; the close-up is kept", () => {
    const pressed = toPicture(view().view, 500, 200);
    view().toggleFit(500, 200);
    expect(view().view.scale).toBe(1);
    near(toPicture(view().view, 500, 200), pressed, 1.1);
    const close = view().view;
    view().toggleFit(0, 0);
    expect(view().fitted).toBe(true);
    expect(view().closeUp).toEqual(close);
    view().lookAgain(view().closeUp!);
    expect(view().view).toEqual(close);
  });

  it("knows the pixels that the next look at the whole, or one to one, will ask for", () => {
    const asked = () => gridOf(view().view, view().picture, view().screen, 1);
    const close = nextGrid();
    view().zoomTo(1);
    expect(asked()).toEqual(close);
    view().panBy(-300, 120);
    const whole = nextGrid();
    view().fit();
    expect(asked()).toEqual(whole);
  });

  it("stays where it was when the frame changes, and fits another portrait", () => {
    view().zoomTo(1);
    view().centre(3000, 2000);
    const here = middle();
    view().setFrame(plain(4000, 2800), false);
    near(middle(), here);
    expect(view().view.scale).toBe(1);
    view().setFrame(plain(1000, 1500), true);
    expect([view().fitted, view().closeUp]).toEqual([true, null]);
    near(middle(), [500, 750], 3);
  });
});
