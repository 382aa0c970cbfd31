/**
 * Paints the picture: the last pixels at once, scaled, and sharp ones as soon as the server has
 * made them. Only the newest wish counts; after a touch only the changed part is fetched.
 */
import { ApiError, fetchPicture, type Operation, type Pixels } from "../../api/client";
import { keyOf, ORIGINAL, RESULT, type Mode, type Show } from "../state/compare";
import { covers, decoded, frameOf, patch, sameGrid, type Frame } from "./Frames";
import { gridOf, subGrid, type Grid, type Size, type View } from "./viewport";

export interface Lens {
  x: number;
  y: number;
  radius: number;
}

interface Options {
  id: string;
  picture: Size;
  canvas: HTMLCanvasElement;
  onError: (error: ApiError) => void;
  onSharp: (sharp: boolean) => void;
}

/** Operations that aren't saved yet, and where they can be seen. */
interface Draft {
  operations: Operation[];
  region: readonly number[] | null;
  /** Full pixels are wanted, however long they take. */
  fine?: boolean;
}

/** Slower drafts than this are asked for with fewer pixels, and finely when the hand rests so long. */
const SLOW_DRAFT_MS = 70;
const REST_MS = 120;
const SERIES_MS = 60;
/** Looks so close together belong to one move, such as a zoom that is centred. */
const SAME_MOVE_MS = 2;
const BASE_LONG_SIDE = 1280;
let windowName = "";

/** A name for this window, so that the server can drop its older requests. */
export function ownWindow(): string {
  windowName ||= crypto.randomUUID();
  return windowName;
}

/** How the pictures are arranged on the canvas. */
export interface Arrangement {
  /** Shown in place of the result. */
  instead: Show;
  held: Show | null;
  lens: Lens | null;
  inGlass: Show;
  compare: { mode: Mode; against: Show; upright: boolean; at: number; flickerMs: number };
  sizes: { px_per_mm: number; divide_mm: number };
}

/** Space between two pictures shown together, CSS pixels. */
export const GAP = 6;
/** Views whose brightness depends on all that is seen: never patched in parts. */
const WHOLE = ["band", "boosted"];
/** Views that don't change when passes do. */
const STILL = ["original", "take", "step"];

export class Painter {
  private view: View = { scale: 1, x: 0, y: 0 };
  private screen: Size = { width: 0, height: 0 };
  private ratio = 1;
  private base: Frame | null = null;
  private originalBase: Frame | null = null;
  private frame: Frame | null = null;
  private others = new Map<string, Frame>();
  private wishes = new Map<string, AbortController>();
  private draft: Frame | null = null;
  private revision = 0;
  private number = 0;
  private box: Size = { width: 0, height: 0 };
  private flickTimer = 0;
  private flicked = false;
  private arranged: Arrangement = {
    instead: RESULT,
    held: null,
    lens: null,
    inGlass: ORIGINAL,
    compare: { mode: "off", against: ORIGINAL, upright: true, at: 0.5, flickerMs: 700 },
    sizes: { px_per_mm: 8, divide_mm: 1 },
  };
  private timer = 0;
  private lastWish = -SERIES_MS;
  private raf = 0;
  private sharpWish: AbortController | null = null;
  private drafting = false;
  private nextDraft: Draft | null = null;
  /** How long drafts take, milliseconds. */
  private draftMs = 0;
  private finerTimer = 0;
  private draftEnded = 0;
  private closed = false;
  /** Pixels that were still being fetched when a change came; they are out of date on arrival. */
  private epoch = 0;

  constructor(private readonly options: Options) {}

  close() {
    this.closed = true;
    window.clearTimeout(this.timer);
    cancelAnimationFrame(this.raf);
    this.sharpWish?.abort();
    window.clearInterval(this.flickTimer);
    window.clearTimeout(this.finerTimer);
    for (const wish of this.wishes.values()) wish.abort();
  }

  async start(revision: number) {
    this.revision = revision;
    await Promise.all([this.loadBase(RESULT), this.loadBase(ORIGINAL)]);
  }

  private async loadBase(show: Show) {
    const { picture } = this.options;
    const scale = Math.min(1, BASE_LONG_SIDE / Math.max(picture.width, picture.height));
    const grid: Grid = {
      x: 0,
      y: 0,
      scale,
      width: Math.max(1, Math.floor(picture.width * scale)),
      height: Math.max(1, Math.floor(picture.height * scale)),
    };
    const bitmap = await this.fetch(grid, show, new AbortController().signal);
    if (!bitmap) return;
    if (show === ORIGINAL) this.originalBase = frameOf(bitmap, grid);
    else this.base = frameOf(bitmap, grid);
    this.schedule();
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

  /** All that is shown somewhere besides the result. */
  private shown(): Show[] {
    const { instead, held, lens, inGlass, compare } = this.arranged;
    const all = [instead, held, lens && inGlass, compare.mode === "off" ? null : compare.against];
    return all.filter((s): s is Show => s !== null && s.show !== "result");
  }

  private forget(which: (key: string) => boolean) {
    for (const key of [...this.others.keys()]) if (which(key)) this.others.delete(key);
  }

  /**
   * The saved state has changed inside `dirty` (x0, y0, x1, y1 of the original); `pixels` are the
   * part of the view that came with the news.
   */
  async changed(revision: number, dirty: readonly number[], pixels?: Pixels | null) {
    this.revision = revision;
    const epoch = (this.epoch += 1);
    const others = this.changedOthers(dirty);
    if (this.arranged.instead.show !== "result") await others;
    const frame = this.frame;
    const hadDraft = this.draft !== null;
    const size = ((dirty[2] ?? 0) - (dirty[0] ?? 0)) * ((dirty[3] ?? 0) - (dirty[1] ?? 0));
    if (size <= 0) {
      this.endDraft();
      return;
    }
    const sub = frame ? subGrid(frame.grid, dirty) : null;
    if (sub) this.options.onSharp(false);
    if (frame && sub && !this.sharpWish) {
      const sent = pixels && sameGrid(pixels, sub.grid) ? await decoded(pixels).catch(() => null) : null;
      const bitmap = await this.newest(sent, sub.grid, epoch, frame);
      if (bitmap && this.frame === frame) {
        frame.canvas.getContext("2d")!.drawImage(bitmap, sub.left, sub.top);
        this.endDraft();
        this.paint();
        this.options.onSharp(true);
        // The coarse picture behind is seen only when the view moves: after what is looked at now.
        window.setTimeout(() => {
          patch(this.base, bitmap, sub.grid);
          bitmap.close();
        });
      } else bitmap?.close();
      return;
    }
    if (sub || hadDraft || this.sharpWish) {
      this.frame = sub || this.sharpWish ? null : this.frame;
      await this.fetchSharp();
      this.endDraft();
      this.schedule();
    }
    if (!sub) await this.loadBase(RESULT);
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
    const grid = gridOf(this.view, this.options.picture, this.screen, this.ratio);
    const shown = new Set(this.shown().map(keyOf));
    this.forget((key) => !STILL.includes(key.split(":")[0]!) && !shown.has(key));
    const epoch = this.epoch;
    for (const show of this.shown()) {
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

  /** The pixels that are on the screen, if nothing newer is on its way. */
  seen(): Grid | null {
    return this.sharpWish ? null : (this.frame?.grid ?? null);
  }

  /** Show operations that aren't saved yet; only the newest is fetched. */
  showDraft(operations: Operation[], region: readonly number[] | null) {
    this.nextDraft = { operations, region };
    if (!this.drafting) void this.runDrafts();
  }

  private async runDrafts() {
    this.drafting = true;
    const ended = this.draftEnded;
    while (this.nextDraft && !this.closed) {
      const wish = this.nextDraft;
      this.nextDraft = null;
      // Where full pixels come too slowly to follow the hand, half as many across have to do until
      // it rests.
      const coarse = !wish.fine && this.draftMs > SLOW_DRAFT_MS;
      const began = performance.now();
      const done = await this.fetchDraft(wish, coarse, ended);
      const took = performance.now() - began;
      if (done && !coarse) this.draftMs = this.draftMs ? 0.5 * (this.draftMs + took) : took;
      if (done && coarse && !this.nextDraft) this.finerDraft(wish, ended);
    }
    this.drafting = false;
  }

  /** Ask for a draft's full pixels once the hand has rested a little. */
  private finerDraft(wish: Draft, ended: number) {
    window.clearTimeout(this.finerTimer);
    this.finerTimer = window.setTimeout(() => {
      if (ended !== this.draftEnded || this.nextDraft || !this.draft) return;
      this.nextDraft = { ...wish, fine: true };
      if (!this.drafting) void this.runDrafts();
    }, REST_MS);
  }

  private async fetchDraft(wish: Draft, coarse: boolean, ended: number): Promise<boolean> {
    const grid = gridOf(this.view, this.options.picture, this.screen, this.ratio);
    const part = grid && wish.region ? (subGrid(grid, wish.region)?.grid ?? null) : grid;
    if (!part) return false;
    const asked = coarse
      ? { ...part, scale: part.scale / 2, width: Math.ceil(part.width / 2), height: Math.ceil(part.height / 2) }
      : part;
    try {
      const bitmap = await fetchPicture(`/api/portraits/${this.options.id}/draft`, new AbortController().signal, {
        ...asked,
        ...this.arranged.instead,
        ...this.arranged.sizes,
        operations: wish.operations,
        revision: this.revision,
      });
      if (ended === this.draftEnded) {
        this.draft = frameOf(bitmap, asked);
        this.paint();
      }
      return true;
    } catch (error) {
      if (error instanceof ApiError) this.options.onError(error);
      return false;
    }
  }

  endDraft() {
    this.draftEnded += 1;
    this.nextDraft = null;
    if (!this.draft) return;
    this.draft = null;
    this.schedule();
  }

  /** Forget what is shown and fetch all anew (after another window's change). */
  async reload(revision: number) {
    this.revision = revision;
    this.epoch += 1;
    this.endDraft();
    this.forget((key) => !STILL.includes(key.split(":")[0]!));
    await Promise.all([this.loadBase(RESULT), this.fetchSharp()]);
  }

  private wantSharp() {
    window.clearTimeout(this.timer);
    this.options.onSharp(false);
    // A single move is answered at once, before anything else is drawn for it; a series of them asks
    // no more often than this.
    const since = performance.now() - this.lastWish;
    const wait = since < SAME_MOVE_MS ? 0 : SERIES_MS - since;
    if (wait <= 0) void this.fetchSharp();
    else this.timer = window.setTimeout(() => void this.fetchSharp(), wait);
  }

  private async fetchSharp(): Promise<void> {
    const grid = gridOf(this.view, this.options.picture, this.screen, this.ratio);
    this.sharpWish?.abort();
    this.sharpWish = null;
    if (!grid || this.closed) return;
    this.lastWish = performance.now();
    const wish = new AbortController();
    this.sharpWish = wish;
    this.options.onSharp(false);
    const epoch = this.epoch;
    const bitmap = await this.fetch(grid, RESULT, wish.signal, "result");
    if (this.sharpWish !== wish) return bitmap?.close();
    this.sharpWish = null;
    if (!bitmap) return;
    if (epoch !== this.epoch) {
      bitmap.close();
      return this.fetchSharp();
    }
    this.frame = frameOf(bitmap, grid);
    this.paint();
    this.options.onSharp(true);
    this.wantOthers();
  }

  private wantOthers() {
    const grid = gridOf(this.view, this.options.picture, this.screen, this.ratio);
    for (const show of this.shown()) if (grid && !covers(this.others.get(keyOf(show)), grid)) void this.fetchOther(show);
  }

  private async fetchOther(show: Show, anew = false): Promise<void> {
    const grid = gridOf(this.view, this.options.picture, this.screen, this.ratio);
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

  private async fetch(
    grid: Grid,
    { show, of }: Show,
    signal: AbortSignal,
    series: string | null = null,
  ): Promise<ImageBitmap | null> {
    const query = new URLSearchParams({
      x: String(grid.x),
      y: String(grid.y),
      scale: String(grid.scale),
      width: String(grid.width),
      height: String(grid.height),
      show,
      of,
    });
    if (!STILL.includes(show)) query.set("revision", String(this.revision));
    if (show === "band") for (const [name, value] of Object.entries(this.arranged.sizes)) query.set(name, String(value));
    // Parts and the picture behind are small and always wanted; only whole views can be overtaken.
    if (series) {
      query.set("window", `${ownWindow()}-${series}`);
      query.set("number", String(++this.number));
    }
    try {
      return await fetchPicture(`/api/portraits/${this.options.id}/view?${query}`, signal);
    } catch (error) {
      if (error instanceof ApiError && error.status !== 499) this.options.onError(error);
      return null;
    }
  }

  private schedule() {
    if (this.raf) return;
    this.raf = requestAnimationFrame(() => this.paint());
  }

  private place(context: CanvasRenderingContext2D, frame: Frame) {
    const { grid } = frame;
    const k = this.view.scale * this.ratio;
    const zoom = k / grid.scale;
    context.imageSmoothingEnabled = zoom < 4;
    context.imageSmoothingQuality = zoom < 1 ? "high" : "medium";
    let x = (grid.x - this.view.x) * k;
    let y = (grid.y - this.view.y) * k;
    if (Math.abs(zoom - 1) < 1e-9) [x, y] = [Math.round(x), Math.round(y)];
    context.drawImage(frame.canvas, x, y, frame.canvas.width * zoom, frame.canvas.height * zoom);
  }

  /** The frames of something shown, the coarse ones first. */
  private layers(show: Show): (Frame | null | undefined)[] {
    const draft = keyOf(show) === keyOf(this.arranged.instead) ? this.draft : null;
    if (show.show === "result") return [this.base, this.frame, draft];
    const own = this.others.get(keyOf(show));
    return [show.show === "original" ? this.originalBase : this.base, own, draft];
  }

  private draw(context: CanvasRenderingContext2D, show: Show) {
    for (const frame of this.layers(show)) if (frame) this.place(context, frame);
  }

  /** One picture with its corner at (`left`, `top`), CSS pixels; `over` draws inside of it. */
  private pane(context: CanvasRenderingContext2D, left: number, top: number, over: () => void) {
    const { picture } = this.options;
    const k = this.view.scale * this.ratio;
    const { width, height } = this.screen;
    context.save();
    context.translate(Math.round(left * this.ratio), Math.round(top * this.ratio));
    context.beginPath();
    context.rect(0, 0, width * this.ratio, height * this.ratio);
    context.clip();
    context.beginPath();
    context.rect(-this.view.x * k, -this.view.y * k, picture.width * k, picture.height * k);
    context.clip();
    over();
    context.restore();
  }

  private paint() {
    cancelAnimationFrame(this.raf);
    this.raf = 0;
    const { canvas } = this.options;
    const context = canvas.getContext("2d")!;
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, canvas.width, canvas.height);
    const { instead, held, lens, inGlass, compare } = this.arranged;
    const { mode, against, upright, at } = compare;
    this.pane(context, 0, 0, () => {
      this.draw(context, held ?? (mode === "flicker" && this.flicked ? against : instead));
      if (held) return;
      if (mode === "wipe") {
        const [w, h] = [this.screen.width * this.ratio, this.screen.height * this.ratio];
        context.beginPath();
        if (upright) context.rect(at * w, 0, w, h);
        else context.rect(0, at * h, w, h);
        context.save();
        context.clip();
        this.draw(context, against);
        context.restore();
      }
      if (lens) {
        context.beginPath();
        context.arc(lens.x * this.ratio, lens.y * this.ratio, lens.radius * this.ratio, 0, 2 * Math.PI);
        context.clip();
        this.draw(context, inGlass);
      }
    });
    if (mode === "side") this.pane(context, this.box.width - this.screen.width, 0, () => this.draw(context, held ?? against));
    if (mode === "stack") this.pane(context, 0, this.box.height - this.screen.height, () => this.draw(context, held ?? against));
  }
}
