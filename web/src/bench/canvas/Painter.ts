/**
 * Paints the picture: the last pixels at once, scaled, and sharp ones as soon as they are made.
 * Only the newest wish counts; after a touch only the changed part is fetched.
 */
import { ApiError, type Operation, type Pixels } from "../../api/client";
import { STILL, type Pictures } from "./pictures";
import { keyOf, ORIGINAL, RESULT, type Show } from "../state/compare";
import { Drafts } from "./Drafts";
import { drawAll, PLAIN, shownIn, type Arrangement } from "./drawing";
import { covers, decoded, frameOf, patch, sameGrid, type Frame } from "./Frames";
import { around } from "./frame";
import { gridOf, subGrid, wholeGrid, type Grid, type Size, type View } from "./viewport";

interface Options {
  picture: Size;
  canvas: HTMLCanvasElement;
  pictures: Pictures;
  onError: (error: ApiError) => void;
  onSharp: (sharp: boolean) => void;
  /** Told after everything that was painted. */
  onPainted?: () => void;
}

const SERIES_MS = 60;
/** Looks so close together belong to one move, such as a zoom that is centred. */
const SAME_MOVE_MS = 2;
const BASE_LONG_SIDE = 1280;

/** Space between two pictures shown together, CSS pixels. */
export const GAP = 6;
/** Views whose brightness depends on all that is seen: never patched in parts. */
const WHOLE = ["band", "boosted"];

export class Painter {
  private view: View = { scale: 1, x: 0, y: 0 };
  private box: Size = { width: 0, height: 0 };
  private screen: Size = { width: 0, height: 0 };
  private ratio = 1;
  private arranged: Arrangement = PLAIN;
  private state = { revision: 0, faces: "" };
  /** The whole picture, coarse, as it is and as it was photographed. */
  private base: Frame | null = null;
  private originalBase: Frame | null = null;
  private based = false;
  /** What is seen now, sharp: the result, and all else that is shown. */
  private frame: Frame | null = null;
  /** Sharp pixels of the state before, shown until those of this one are there: never a blink of coarse ones. */
  private before: Frame | null = null;
  private others = new Map<string, Frame>();
  private draft: Frame | null = null;
  private sharp = false;
  private readonly drafts: Drafts;
  private wishes = new Map<string, AbortController>();
  private sharpWish: AbortController | null = null;
  /** The pixels, and the state of them, that are under way. */
  private wished: { grid: Grid; epoch: number } | null = null;
  private lastWish = -SERIES_MS;
  /** The view has moved and isn't asked for yet: what arrives meanwhile is of the view before. */
  private timer = 0;
  private raf = 0;
  private flickTimer = 0;
  private flicked = false;
  private closed = false;
  /** Pixels that were still being fetched when a change came are out of date on arrival. */
  private epoch = 0;

  constructor(private readonly options: Options) {
    this.drafts = new Drafts({
      gridOf: (region) => {
        const grid = this.grid();
        // Regions of drafts are told in the original, as touches are.
        return grid && region ? (subGrid(grid, around(this.view.frame, region))?.grid ?? null) : grid;
      },
      fetch: (grid, operations) =>
        this.tried(options.pictures.draft(grid, this.arranged.instead, this.state, this.arranged.sizes, operations)),
      show: (bitmap, grid) => {
        this.draft = frameOf(bitmap, grid);
        this.paint();
      },
    });
  }

  close() {
    this.closed = true;
    window.clearTimeout(this.timer);
    cancelAnimationFrame(this.raf);
    this.sharpWish?.abort();
    window.clearInterval(this.flickTimer);
    this.drafts.close();
    for (const wish of this.wishes.values()) wish.abort();
  }

  /** What is wanted is the pixels of a state; until they are there, the portrait's small picture is shown. */
  start(revision: number, faces: string) {
    this.state = { revision, faces };
    void this.loadSmall();
  }

  /** `box` is the whole canvas, `screen` one of its pictures, in CSS pixels. */
  resize(box: Size, screen: Size, ratio: number) {
    this.box = box;
    this.screen = screen;
    this.ratio = ratio;
    const { canvas } = this.options;
    canvas.width = Math.max(1, Math.round(box.width * ratio));
    canvas.height = Math.max(1, Math.round(box.height * ratio));
    this.paint();
    this.wantSharp();
  }

  look(view: View) {
    this.view = view;
    this.schedule();
    this.wantSharp();
  }

  arrange(next: Arrangement) {
    const before = this.arranged;
    this.arranged = next;
    if (JSON.stringify(before.sizes) !== JSON.stringify(next.sizes)) this.forget((key) => key.startsWith("band"));
    if (keyOf(before.instead) !== keyOf(next.instead)) this.endDraft();
    const { mode, flickerMs } = next.compare;
    if (mode !== before.compare.mode || flickerMs !== before.compare.flickerMs) {
      window.clearInterval(this.flickTimer);
      this.flicked = false;
      if (mode === "flicker")
        this.flickTimer = window.setInterval(() => {
          this.flicked = !this.flicked;
          this.schedule();
        }, flickerMs);
    }
    this.wantOthers();
    this.schedule();
  }

  /** The analysis of the faces that is known now: what acts on zones is fetched anew with another. */
  knows(faces: string) {
    // None is known for a moment while another is on its way; what is shown stays.
    if (this.closed || !faces || faces === this.state.faces) return;
    this.state.faces = faces;
    void this.reload(this.state.revision);
  }

  /** The pixels that are on the screen, if nothing newer is on its way. */
  seen(): Grid | null {
    return this.sharpWish || this.timer ? null : (this.frame?.grid ?? null);
  }

  /** The same once all of them are of the saved state. */
  settled(): Grid | null {
    return this.sharp ? this.seen() : null;
  }

  /** Show operations that aren't saved yet; only the newest is fetched. */
  showDraft(operations: Operation[], region: readonly number[] | null) {
    if (!this.closed) this.drafts.want(operations, region);
  }

  /** What was shown unsaved is being saved: finer pixels of it would come late, and on top of what was saved. */
  restDraft() {
    this.drafts.rest();
  }

  endDraft() {
    this.drafts.end();
    if (!this.draft) return;
    this.draft = null;
    this.schedule();
  }

  /** Forget what is shown and fetch all anew (after another window's change). */
  async reload(revision: number) {
    if (this.closed) return;
    this.state.revision = revision;
    this.epoch += 1;
    this.endDraft();
    this.forget((key) => key.split(":")[0] !== "original");
    await Promise.all([this.loadBase(RESULT), this.fetchSharp()]);
  }

  /**
   * The saved state has changed inside `dirty` (x0, y0, x1, y1 of the framed picture); `pixels` are the
   * part of the view that came with the news.
   */
  async changed(revision: number, dirty: readonly number[], pixels?: Pixels | null) {
    if (this.closed) return;
    this.state.revision = revision;
    const epoch = (this.epoch += 1);
    const others = this.changedOthers(dirty);
    if (this.arranged.instead.show !== "result") await others;
    const frame = this.frame;
    const size = ((dirty[2] ?? 0) - (dirty[0] ?? 0)) * ((dirty[3] ?? 0) - (dirty[1] ?? 0));
    if (size <= 0) return this.endDraft();
    const sub = frame ? subGrid(frame.grid, dirty) : null;
    if (sub) this.tellSharp(false);
    if (frame && sub && !this.sharpWish) {
      if (pixels?.nearly) await this.paintNearly(pixels, frame, epoch);
      const sent = pixels && !pixels.nearly && sameGrid(pixels, sub.grid) ? await decoded(pixels).catch(() => null) : null;
      const bitmap = await this.newest(sent, sub.grid, epoch, frame);
      if (bitmap && this.frame === frame && !this.closed) {
        frame.canvas.getContext("2d")!.drawImage(bitmap, sub.left, sub.top);
        this.endDraft();
        this.paint();
        this.tellSharp(!this.timer);
        // The coarse picture behind is seen only when the view moves: after what is looked at now.
        window.setTimeout(() => {
          patch(this.base, bitmap, sub.grid);
          bitmap.close();
        });
      } else bitmap?.close();
      return;
    }
    if (sub || this.draft !== null || this.sharpWish) {
      if (sub || this.sharpWish) {
        this.before = this.frame ?? this.before;
        this.frame = null;
      }
      await this.fetchSharp();
      this.endDraft();
      this.schedule();
    }
    if (!sub) await this.loadBase(RESULT);
  }

  /** What the hand changed is shown at once, before passes that look around themselves have looked. */
  private async paintNearly(pixels: Pixels, frame: Frame, epoch: number) {
    const bitmap = await decoded(pixels).catch(() => null);
    if (bitmap && epoch === this.epoch && this.frame === frame && !this.closed) {
      const { grid } = frame;
      const left = Math.round((pixels.x - grid.x) * grid.scale);
      const top = Math.round((pixels.y - grid.y) * grid.scale);
      frame.canvas.getContext("2d")!.drawImage(bitmap, left, top);
      this.paint();
    }
    bitmap?.close();
  }

  /**
   * Pixels of a part as they are now: those that were sent if nothing has changed since the epoch.
   * Older ones could arrive last and cover newer ones.
   */
  private async newest(sent: ImageBitmap | null, grid: Grid, epoch: number, frame: Frame): Promise<ImageBitmap | null> {
    let bitmap = sent;
    while (!bitmap || (epoch !== this.epoch && this.frame === frame)) {
      bitmap?.close();
      epoch = this.epoch;
      bitmap = await this.fetch(grid, RESULT, new AbortController().signal);
      if (!bitmap) return null;
    }
    return bitmap;
  }

  /** Bring what else is shown up to date: parts of it where that is enough. */
  private async changedOthers(dirty: readonly number[]) {
    const grid = this.grid();
    const shown = new Set(shownIn(this.arranged).map(keyOf));
    this.forget((key) => !STILL.includes(key.split(":")[0]!) && !shown.has(key));
    const epoch = this.epoch;
    for (const show of shownIn(this.arranged)) {
      if (STILL.includes(show.show)) continue;
      const frame = this.others.get(keyOf(show));
      const sub = frame && grid && covers(frame, grid) ? subGrid(frame.grid, dirty) : null;
      if (!frame || WHOLE.includes(show.show) || !sub) {
        await this.fetchOther(show, true);
        continue;
      }
      const bitmap = await this.fetch(sub.grid, show, new AbortController().signal);
      if (bitmap && epoch === this.epoch && this.others.get(keyOf(show)) === frame)
        frame.canvas.getContext("2d")!.drawImage(bitmap, sub.left, sub.top);
      bitmap?.close();
    }
    if (epoch === this.epoch && this.arranged.instead.show !== "result") this.endDraft();
    if (shown.size > 0) this.schedule();
  }

  private forget(which: (key: string) => boolean) {
    for (const key of [...this.others.keys()]) if (which(key)) this.others.delete(key);
  }

  /** The coarse pictures behind, once: they are seen only when the view moves, so the view itself comes first. */
  private loadBases() {
    if (this.based) return;
    this.based = true;
    void this.loadBase(RESULT);
    void this.loadBase(ORIGINAL);
  }

  private async loadSmall() {
    const bitmap = await this.options.pictures.small().catch(() => null);
    if (!bitmap) return;
    if (this.closed || this.base) return bitmap.close();
    this.base = frameOf(bitmap, wholeGrid(this.options.picture, Math.max(bitmap.width, bitmap.height)));
    this.schedule();
  }

  private async loadBase(show: Show) {
    const grid = wholeGrid(this.options.picture, BASE_LONG_SIDE);
    const epoch = this.epoch;
    const bitmap = await this.fetch(grid, show, new AbortController().signal);
    if (!bitmap || this.closed) return bitmap?.close();
    if (show === ORIGINAL) this.originalBase = frameOf(bitmap, grid);
    else if (epoch === this.epoch || !this.base) this.base = frameOf(bitmap, grid);
    this.schedule();
  }

  private wantSharp() {
    window.clearTimeout(this.timer);
    this.tellSharp(false);
    // A single move is answered at once, before anything else is drawn for it; a series of them asks
    // no more often than this.
    const since = performance.now() - this.lastWish;
    const wait = since < SAME_MOVE_MS ? 0 : SERIES_MS - since;
    if (wait <= 0) void this.fetchSharp();
    else this.timer = window.setTimeout(() => void this.fetchSharp(), wait);
  }

  private async fetchSharp(): Promise<void> {
    window.clearTimeout(this.timer);
    this.timer = 0;
    const grid = this.grid();
    const { epoch, wished } = this;
    // Just these are under way: told again by another part of the window.
    if (grid && this.sharpWish && wished && wished.epoch === epoch && sameGrid(wished.grid, grid)) return;
    this.sharpWish?.abort();
    this.sharpWish = null;
    if (!grid || this.closed) return;
    this.lastWish = performance.now();
    const wish = new AbortController();
    [this.sharpWish, this.wished] = [wish, { grid, epoch }];
    this.tellSharp(false);
    const bitmap = await this.fetch(grid, RESULT, wish.signal, "result");
    if (this.sharpWish !== wish) return bitmap?.close();
    this.sharpWish = null;
    this.loadBases();
    if (!bitmap) return;
    if (epoch !== this.epoch) {
      bitmap.close();
      return this.fetchSharp();
    }
    this.frame = frameOf(bitmap, grid);
    this.before = null;
    this.paint();
    this.tellSharp(!this.timer);
    this.wantOthers();
  }

  private wantOthers() {
    const grid = this.grid();
    for (const show of shownIn(this.arranged))
      if (grid && !covers(this.others.get(keyOf(show)), grid)) void this.fetchOther(show);
  }

  private async fetchOther(show: Show, anew = false): Promise<void> {
    const grid = this.grid();
    const key = keyOf(show);
    if (!grid || this.closed || (!anew && this.wishes.has(key) && covers(this.others.get(key), grid))) return;
    this.wishes.get(key)?.abort();
    const wish = new AbortController();
    this.wishes.set(key, wish);
    const epoch = this.epoch;
    const bitmap = await this.fetch(grid, show, wish.signal, key);
    if (this.wishes.get(key) !== wish) return bitmap?.close();
    this.wishes.delete(key);
    if (!bitmap) return;
    if (epoch !== this.epoch && !STILL.includes(show.show)) {
      bitmap.close();
      return this.fetchOther(show, true);
    }
    this.others.set(key, frameOf(bitmap, grid));
    this.schedule();
  }

  private fetch(grid: Grid, show: Show, signal: AbortSignal, series: string | null = null): Promise<ImageBitmap | null> {
    return this.tried(this.options.pictures.view(grid, show, this.state, this.arranged.sizes, series, signal));
  }

  /** A picture, or null where it can't be had or is no longer wanted; errors are told. */
  private async tried(picture: Promise<ImageBitmap>): Promise<ImageBitmap | null> {
    try {
      return await picture;
    } catch (error) {
      if (error instanceof ApiError && error.status !== 499 && !this.closed) this.options.onError(error);
      return null;
    }
  }

  private grid(): Grid | null {
    return gridOf(this.view, this.options.picture, this.screen, this.ratio);
  }

  /** Sharp is what is shown once the view's pixels are there and no coarse draft lies over them. */
  private tellSharp(sharp = this.sharp) {
    this.sharp = sharp;
    const full = this.grid()?.scale ?? 0;
    this.options.onSharp(sharp && !(this.draft && this.draft.grid.scale < full));
  }

  private schedule() {
    if (this.raf || this.closed) return;
    this.raf = requestAnimationFrame(() => this.paint());
  }

  /** The frames of something shown, the coarse ones first. */
  private layers(show: Show): (Frame | null | undefined)[] {
    const draft = keyOf(show) === keyOf(this.arranged.instead) ? this.draft : null;
    if (show.show === "result") return [this.base, this.before, this.frame, draft];
    const own = this.others.get(keyOf(show));
    return [show.show === "original" ? this.originalBase : this.base, own, draft];
  }

  private paint() {
    cancelAnimationFrame(this.raf);
    this.raf = 0;
    if (this.closed) return;
    const { canvas, picture } = this.options;
    const { box, screen, ratio, view } = this;
    drawAll({ canvas, picture, box, screen, ratio, view }, this.arranged, this.flicked, (show) => this.layers(show));
    this.tellSharp();
    this.options.onPainted?.();
  }
}
