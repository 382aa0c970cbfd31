import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ApiError } from "../../api/client";
import { ORIGINAL, type Show } from "../state/compare";
import { PLAIN, shownIn } from "./drawing";
import { Painter } from "./Painter";
import { pictures, type Pictures, type State } from "./pictures";
import type { Grid } from "./viewport";

interface Asked {
  grid: Grid;
  show: Show;
  state: State;
  give: () => void;
  fail: (status: number) => void;
}

const bitmapOf = (grid: Grid) => ({ width: grid.width, height: grid.height, close: () => undefined }) as ImageBitmap;

const small = { width: 640, height: 480, close: () => undefined } as ImageBitmap;
let drawn: unknown[][] = [];
const draw = (...args: unknown[]) => void drawn.push(args);
const context = new Proxy({}, { get: (_, name) => (name === "drawImage" ? draw : () => undefined), set: () => true });

describe("the painter", () => {
  let asked: Asked[];
  let sharp: boolean[];
  let errors: number[];
  let drafts: { grid: Grid; give: () => void }[];
  let painter: Painter;

  beforeEach(() => {
    [asked, sharp, errors, drafts] = [[], [], [], []];
    // The painter waits by the clock; a busy machine's clock would run on between two lines of a test.
    vi.useFakeTimers({ toFake: ["performance", "setTimeout", "clearTimeout"] });
    vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockImplementation(() => context as never);
    const source: Pictures = {
      view: (grid, show, state) =>
        new Promise((resolve, reject) =>
          asked.push({
            grid,
            show,
            state: { ...state },
            give: () => resolve(bitmapOf(grid)),
            fail: (status) => reject(new ApiError(status, "no", "no")),
          }),
        ),
      small: () => Promise.resolve(small),
      draft: (grid) => new Promise((resolve) => drafts.push({ grid, give: () => resolve(bitmapOf(grid)) })),
    };
    painter = new Painter({
      picture: { width: 4000, height: 3000 },
      canvas: document.createElement("canvas"),
      pictures: source,
      onError: (error) => void errors.push(error.status),
      onSharp: (is) => void sharp.push(is),
    });
  });
  afterEach(() => {
    painter.close();
    vi.useRealTimers();
    vi.restoreAllMocks();
  });
  const all = async () => {
    for (const one of asked.splice(0)) one.give();
    await vi.advanceTimersByTimeAsync(0);
  };
  const begun = () => {
    painter.start(3, "faces-a");
    painter.look({ scale: 1, x: 100, y: 100 });
    painter.resize({ width: 800, height: 600 }, { width: 800, height: 600 }, 1);
  };
  const started = async () => {
    begun();
    await vi.waitFor(() => expect(asked).toHaveLength(1));
    await all();
    await vi.waitFor(() => expect(painter.seen()).not.toBeNull());
    await all();
    asked = [];
  };

  it("shows the view sharp, and asks for the state it was started with", async () => {
    await started();
    expect(sharp.at(-1)).toBe(true);
    expect(painter.seen()).toMatchObject({ x: 100, y: 100, width: 800, height: 600 });
  });

  it("shows the small picture at once, and asks for what lies behind the view after the view", async () => {
    drawn = [];
    begun();
    await vi.waitFor(() => expect(drawn.some(([source]) => (source as HTMLCanvasElement).width === small.width)).toBe(true));
    expect(sharp.at(-1)).toBe(false);
    expect(asked.map((a) => a.grid.width)).toEqual([800]);
    await all();
    await vi.waitFor(() => expect(asked).toHaveLength(2));
    expect(asked.map((a) => [a.show.show, a.grid.width])).toEqual([
      ["result", 1280],
      ["original", 1280],
    ]);
    expect(sharp.at(-1)).toBe(true);
  });

  it("doesn't ask again for what is under way", async () => {
    begun();
    expect(asked).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(10);
    painter.resize({ width: 800, height: 600 }, { width: 800, height: 600 }, 1);
    await vi.advanceTimersByTimeAsync(100);
    expect(asked).toHaveLength(1);
    await all();
    expect(sharp.at(-1)).toBe(true);
  });

  it("paints what the hand changed, and asks for it again as it isn't exact", async () => {
    await started();
    vi.stubGlobal("createImageBitmap", () => Promise.resolve({ width: 40, height: 24, close: () => undefined }));
    drawn = [];
    const nearly = { x: 140, y: 160, scale: 1, width: 40, height: 24, jpeg: btoa("a picture"), nearly: true };
    const done = painter.changed(4, [0, 0, 4000, 3000], nearly);
    await vi.waitFor(() => expect(asked.length).toBe(1));
    expect(drawn.map(([, x, y]) => [x, y])).toContainEqual([40, 60]);
    expect(sharp.at(-1)).toBe(false);
    expect(asked[0]).toMatchObject({ state: { revision: 4 }, grid: { x: 100, y: 100, width: 800, height: 600 } });
    await all();
    await done;
    expect(sharp.at(-1)).toBe(true);
    vi.unstubAllGlobals();
  });

  it("isn't sharp when pixels of the view before arrive, while the next is not asked for yet", async () => {
    await started();
    await vi.advanceTimersByTimeAsync(100);
    painter.look({ scale: 1, x: 300, y: 100 });
    expect(asked).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(10);
    painter.look({ scale: 1, x: 320, y: 100 });
    expect(asked).toHaveLength(1);
    await all();
    expect(sharp.at(-1)).toBe(false);
    expect(painter.seen()).toBeNull();
    await vi.advanceTimersByTimeAsync(70);
    expect(asked).toHaveLength(1);
    await all();
    expect(sharp.at(-1)).toBe(true);
    expect(painter.seen()).toMatchObject({ x: 320 });
  });

  it("fetches only the part that a change has changed", async () => {
    await started();
    void painter.changed(4, [300, 200, 340, 230]);
    await vi.waitFor(() => expect(asked).toHaveLength(1));
    expect(asked[0]!.state.revision).toBe(4);
    expect(asked[0]!.grid.width).toBeLessThan(60);
    await all();
    expect(sharp.at(-1)).toBe(true);
  });

  it("fetches all anew when the faces are known anew, and only then", async () => {
    await started();
    painter.knows("faces-a");
    painter.knows("");
    expect(asked).toHaveLength(0);
    painter.knows("faces-b");
    await vi.waitFor(() => expect(asked).toHaveLength(2));
    expect(asked.every((a) => a.state.faces === "faces-b")).toBe(true);
  });

  it("keeps showing sharp pixels when a change comes while the view is being fetched", async () => {
    await started();
    painter.knows("faces-b");
    await vi.waitFor(() => expect(asked).toHaveLength(2));
    void painter.changed(4, [0, 0, 4000, 3000]);
    await vi.waitFor(() => expect(asked).toHaveLength(3));
    drawn = [];
    painter.resize({ width: 800, height: 600 }, { width: 800, height: 600 }, 1);
    expect(drawn.map(([source]) => (source as HTMLCanvasElement).width)).toContain(800);
  });

  it("isn't sharp while a coarse draft lies over the view", async () => {
    await started();
    painter.showDraft([], null);
    await vi.waitFor(() => expect(drafts).toHaveLength(1));
    vi.advanceTimersByTime(200);
    drafts[0]!.give();
    await vi.advanceTimersByTimeAsync(0);
    expect(sharp.at(-1)).toBe(true);
    painter.showDraft([], null);
    await vi.waitFor(() => expect(drafts).toHaveLength(2));
    expect(drafts[1]!.grid.scale).toBe(0.5);
    drafts[1]!.give();
    await vi.waitFor(() => expect(sharp.at(-1)).toBe(false));
    const saved = painter.changed(4, [0, 0, 4000, 3000]);
    await vi.waitFor(() => expect(asked).toHaveLength(1));
    await all();
    await saved;
    expect(sharp.at(-1)).toBe(true);
  });

  it("touches nothing once it was taken away", async () => {
    await started();
    painter.close();
    painter.showDraft([], null);
    await painter.changed(9, [0, 0, 10, 10]);
    await painter.reload(9);
    painter.knows("faces-c");
    expect(asked).toHaveLength(0);
  });

  it("tells errors, but not that a newer view was asked for", async () => {
    await started();
    for (const status of [499, 500]) {
      painter.look({ scale: 1, x: 500 + status, y: 100 });
      await vi.waitFor(() => expect(asked).toHaveLength(1));
      asked.pop()!.fail(status);
      await vi.advanceTimersByTimeAsync(70);
    }
    expect(errors).toEqual([500]);
  });
});

describe("what is shown somewhere", () => {
  it("is told by the arrangement, without the result itself", () => {
    expect(shownIn(PLAIN)).toEqual([]);
    const lens = { x: 1, y: 1, radius: 9 };
    expect(shownIn({ ...PLAIN, lens })).toEqual([ORIGINAL]);
    const compare = { ...PLAIN.compare, mode: "side" as const, against: { show: "take" as const, of: "t" } };
    expect(shownIn({ ...PLAIN, compare })).toEqual([{ show: "take", of: "t" }]);
  });
});

describe("addresses of pictures", () => {
  it("name state, series and number, as far as what is shown hangs on them", async () => {
    const urls: string[] = [];
    vi.stubGlobal("fetch", (url: string, init?: RequestInit) => {
      urls.push(init?.body ? `${url} ${String(init.body)}` : url);
      return Promise.reject(new TypeError("no line"));
    });
    const own = pictures("p1", "w", "f1");
    const grid: Grid = { x: 1, y: 2, scale: 0.5, width: 30, height: 20 };
    const state = { revision: 7, faces: "abc" };
    const sizes = { px_per_mm: 8, divide_mm: 1 };
    const signal = new AbortController().signal;
    await own.view(grid, { show: "result", of: "" }, state, sizes, "result", signal).catch(() => undefined);
    await own.view(grid, ORIGINAL, state, sizes, null, signal).catch(() => undefined);
    await own.draft(grid, { show: "result", of: "" }, state, sizes, []).catch(() => undefined);
    // Another painter of this window counts on: lower numbers would be taken for older requests.
    await pictures("p1", "w", "f2").draft(grid, ORIGINAL, state, sizes, []).catch(() => undefined);
    vi.unstubAllGlobals();
    expect(urls[0]).toContain("revision=7&faces=abc&frame=f1&window=w-result&number=1");
    expect(urls[1]).not.toMatch(/revision|faces|window/);
    expect(urls[2]).toContain('"window":"w-draft","number":2');
    expect(urls[3]).toContain('"number":3');
  });
});
