import { describe, expect, it } from "vitest";
import { clamp, fit, gridOf, snap, subGrid, toPicture, toScreen, zoomAt, type View } from "./viewport";

const picture = { width: 4000, height: 6000 };
const screen = { width: 844, height: 704 };

describe("viewport", () => {
  it("fits the whole picture in the middle", () => {
    const view = fit(picture, screen);
    const [x0, y0] = toScreen(view, 0, 0);
    const [x1, y1] = toScreen(view, picture.width, picture.height);
    expect(y0).toBeCloseTo(24);
    expect(y1).toBeCloseTo(screen.height - 24);
    expect(x0 + x1).toBeCloseTo(screen.width);
  });

  it("keeps the place under the pointer while zooming", () => {
    let view: View = { scale: 0.5, x: 1000, y: 2000 };
    const place = toPicture(view, 300, 200);
    for (let n = 0; n < 6; n++) {
      view = zoomAt(view, 1.4, 300, 200, picture, screen);
      const [x, y] = toScreen(view, ...place);
      expect(x).toBeCloseTo(300, 6);
      expect(y).toBeCloseTo(200, 6);
    }
  });

  it("never loses the picture", () => {
    const far = clamp({ scale: 1, x: 1e6, y: -1e6 }, picture, screen);
    expect(far.x).toBeLessThan(picture.width);
    expect(far.y + screen.height / far.scale).toBeGreaterThan(0);
  });

  it("asks for device pixels up to one to one and for original pixels above", () => {
    for (const ratio of [1, 2]) {
      const view = snap({ scale: 0.4, x: 100.3, y: 50.7 }, ratio);
      const grid = gridOf(view, picture, screen, ratio)!;
      expect(grid.scale).toBeCloseTo(0.4 * ratio);
      expect(Math.abs(grid.width - screen.width * ratio)).toBeLessThanOrEqual(1);
      // The grid lies on the screen's own pixels.
      const left = (grid.x - view.x) * view.scale * ratio;
      expect(left).toBeCloseTo(Math.round(left), 6);
    }
    const close = gridOf({ scale: 8, x: 10.6, y: 20.2 }, picture, screen, 1)!;
    expect(close.scale).toBe(1);
    expect([close.x, close.y]).toEqual([10, 20]);
    expect(close.width).toBe(Math.ceil(10.6 + screen.width / 8) - 10);
  });

  it("asks for nothing beside the picture", () => {
    expect(gridOf({ scale: 1, x: 9000, y: 0 }, picture, screen, 1)).toBeNull();
  });

  it("cuts parts that cover a region in whole blocks", () => {
    const grid = { x: 100, y: 200, scale: 0.5, width: 400, height: 300 };
    const part = subGrid(grid, [300, 300, 340, 350])!;
    expect(part.left % 8).toBe(0);
    expect(part.top % 8).toBe(0);
    expect(part.grid.width % 8).toBe(0);
    expect(part.grid.x).toBeLessThanOrEqual(300);
    expect(part.grid.x + part.grid.width / 0.5).toBeGreaterThanOrEqual(340);
    expect(part.grid.x).toBeCloseTo(grid.x + part.left / grid.scale);
    expect(subGrid(grid, [5000, 5000, 5010, 5010])).toBeNull();
  });
});
