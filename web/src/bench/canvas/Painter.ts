/**
 * Paints the picture: the last pixels at once, scaled, and sharp ones as soon as the server has
 * made them. Only the newest wish counts; after a touch only the changed part is fetched.
 */
import { ApiError, fetchPicture, type Operation } from "../../api/client";
import { gridOf, subGrid, type Grid, type Size, type View } from "./viewport";

interface Frame {
  canvas: HTMLCanvasElement;
  grid: Grid;
}

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

const SERIES_MS = 60;
const BASE_LONG_SIDE = 1280;
let windowName = "";

/** A name for this window, so that the server can drop its older requests. */
function ownWindow(): string {
  windowName ||= crypto.randomUUID();
  return windowName;
}

function frameOf(bitmap: ImageBitmap, grid: Grid): Frame {
  const canvas = document.createElement("canvas");
  canvas.width = bitmap.width;
  canvas.height = bitmap.height;
  canvas.getContext("2d")!.drawImage(bitmap, 0, 0);
  bitmap.close();
  return { canvas, grid };
}

function covers(frame: Frame | null, grid: Grid): boolean {
  if (!frame) return false;
  const f = frame.grid;
  const eps = 0.25 / grid.scale;
  return (
    Math.abs(f.scale - grid.scale) < 1e-9 &&
    f.x <= grid.x + eps &&
    f.y <= grid.y + eps &&
    f.x + f.width / f.scale >= grid.x + grid.width / grid.scale - eps &&
    f.y + f.height / f.scale >= grid.y + grid.height / grid.scale - eps
  );
}

export class Painter {
  private view: View = { scale: 1, x: 0, y: 0 };
  private screen: Size = { width: 0, height: 0 };
  private ratio = 1;
  private base: Frame | null = null;
  private originalBase: Frame | null = null;
  private frame: Frame | null = null;
  private original: Frame | null = null;
  private draft: Frame | null = null;
  private revision = 0;
  private number = 0;
  private showOriginal = false;
  private lens: Lens | null = null;
  private timer = 0;
  private lastWish = -SERIES_MS;
  private raf = 0;
  private sharpWish: AbortController | null = null;
  private originalWish: AbortController | null = null;
  private drafting = false;
  private nextDraft: { operations: Operation[]; region: readonly number[] | null } | null = null;
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
    this.originalWish?.abort();
  }

  async start(revision: number) {
    this.revision = revision;
    await Promise.all([this.loadBase("result"), this.loadBase("original")]);
  }

  private async loadBase(show: "result" | "original") {
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
    if (show === "original") this.originalBase = frameOf(bitmap, grid);
    else this.base = frameOf(bitmap, grid);
    this.schedule();
  }

  resize(screen: Size, ratio: number) {
    this.screen = screen;
    this.ratio = ratio;
    const { canvas } = this.options;
    canvas.width = Math.max(1, Math.round(screen.width * ratio));
    canvas.height = Math.max(1, Math.round(screen.height * ratio));
    this.paint();
    this.wantSharp();
  }

  look(view: View) {
    this.view = view;
    this.schedule();
    this.wantSharp();
  }

  compare(on: boolean) {
    this.showOriginal = on;
    if (on) void this.wantOriginal();
    this.schedule();
  }

  setLens(lens: Lens | null) {
    this.lens = lens;
    if (lens) void this.wantOriginal();
    this.schedule();
  }

  /** The saved state has changed inside `dirty` (x0, y0, x1, y1 of the original). */
  async changed(revision: number, dirty: readonly number[]) {
    this.revision = revision;
    this.epoch += 1;
    const frame = this.frame;
    const hadDraft = this.draft !== null;
    const size = ((dirty[2] ?? 0) - (dirty[0] ?? 0)) * ((dirty[3] ?? 0) - (dirty[1] ?? 0));
    if (size <= 0) {
      this.endDraft();
      return;
    }
    const sub = frame ? subGrid(frame.grid, dirty) : null;
    if (frame && sub && !this.sharpWish) {
      const bitmap = await this.fetch(sub.grid, "result", new AbortController().signal);
      if (bitmap && this.frame === frame) {
        frame.canvas.getContext("2d")!.drawImage(bitmap, sub.left, sub.top);
        this.patchBase(bitmap, sub.grid);
        this.endDraft();
        this.paint();
        this.options.onSharp(true);
      }
      bitmap?.close();
      return;
    }
    if (sub || hadDraft || this.sharpWish) {
      this.frame = sub || this.sharpWish ? null : this.frame;
      await this.fetchSharp();
      this.endDraft();
      this.schedule();
    }
    if (!sub) await this.loadBase("result");
  }

  private patchBase(bitmap: ImageBitmap, grid: Grid) {
    if (!this.base) return;
    const s = this.base.grid.scale;
    const context = this.base.canvas.getContext("2d")!;
    context.imageSmoothingQuality = "high";
    context.drawImage(
      bitmap,
      grid.x * s,
      grid.y * s,
      (grid.width / grid.scale) * s,
      (grid.height / grid.scale) * s,
    );
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
      const grid = gridOf(this.view, this.options.picture, this.screen, this.ratio);
      const part = grid && wish.region ? (subGrid(grid, wish.region)?.grid ?? null) : grid;
      if (!part) continue;
      try {
        const bitmap = await fetchPicture(
          `/api/portraits/${this.options.id}/draft`,
          new AbortController().signal,
          { ...part, operations: wish.operations, revision: this.revision },
        );
        if (ended === this.draftEnded) {
          this.draft = frameOf(bitmap, part);
          this.paint();
        }
      } catch (error) {
        if (error instanceof ApiError) this.options.onError(error);
      }
    }
    this.drafting = false;
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
    await Promise.all([this.loadBase("result"), this.fetchSharp()]);
  }

  private wantSharp() {
    window.clearTimeout(this.timer);
    this.options.onSharp(false);
    // A single move is answered at once; a series of them asks no more often than this.
    const wait = Math.max(0, this.lastWish + SERIES_MS - performance.now());
    this.timer = window.setTimeout(() => void this.fetchSharp(), wait);
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
    const bitmap = await this.fetch(grid, "result", wish.signal);
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
    if (this.lens || this.showOriginal) void this.wantOriginal();
  }

  private async wantOriginal() {
    const grid = gridOf(this.view, this.options.picture, this.screen, this.ratio);
    if (!grid || covers(this.original, grid)) return;
    this.originalWish?.abort();
    const wish = new AbortController();
    this.originalWish = wish;
    const bitmap = await this.fetch(grid, "original", wish.signal);
    if (this.originalWish !== wish) return bitmap?.close();
    this.originalWish = null;
    if (!bitmap) return;
    this.original = frameOf(bitmap, grid);
    this.paint();
  }

  private async fetch(
    grid: Grid,
    show: "result" | "original",
    signal: AbortSignal,
  ): Promise<ImageBitmap | null> {
    const query = new URLSearchParams({
      x: String(grid.x),
      y: String(grid.y),
      scale: String(grid.scale),
      width: String(grid.width),
      height: String(grid.height),
      show,
      window: `${ownWindow()}-${show}`,
      number: String(++this.number),
    });
    if (show === "result") query.set("revision", String(this.revision));
    // Parts and the picture behind are small and always wanted; only whole views can be overtaken.
    const part = !signal || signal !== this.sharpWish?.signal;
    if (part && signal !== this.originalWish?.signal) query.delete("window");
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

  private paint() {
    cancelAnimationFrame(this.raf);
    this.raf = 0;
    const { canvas, picture } = this.options;
    const context = canvas.getContext("2d")!;
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, canvas.width, canvas.height);
    const k = this.view.scale * this.ratio;
    context.save();
    context.beginPath();
    context.rect(-this.view.x * k, -this.view.y * k, picture.width * k, picture.height * k);
    context.clip();
    const before = [this.originalBase, this.original];
    const after = [this.base, this.frame, this.draft];
    for (const frame of this.showOriginal ? before : after) if (frame) this.place(context, frame);
    if (this.lens && !this.showOriginal) {
      const { x, y, radius } = this.lens;
      context.beginPath();
      context.arc(x * this.ratio, y * this.ratio, radius * this.ratio, 0, 2 * Math.PI);
      context.clip();
      for (const frame of before) if (frame) this.place(context, frame);
    }
    context.restore();
  }
}
