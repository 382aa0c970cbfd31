/** Pixels of what isn't saved yet, such as a slider on its way: only the newest wish counts. */
import type { Operation } from "../../api/client";
import type { Grid } from "./viewport";

/** Operations that aren't saved yet, and where they can be seen. */
interface Wish {
  operations: Operation[];
  region: readonly number[] | null;
  /** Full pixels are wanted, however long they take. */
  fine?: boolean;
}

/** Slower drafts than this are asked for with fewer pixels, and finely when the hand rests so long. */
const SLOW_MS = 70;
const REST_MS = 120;

interface Options {
  /** The grid that shows a region now; null: nothing of it is seen. */
  gridOf: (region: readonly number[] | null) => Grid | null;
  /** Gives the pixels of operations, or null where they can't be had. */
  fetch: (grid: Grid, operations: Operation[]) => Promise<ImageBitmap | null>;
  show: (bitmap: ImageBitmap, grid: Grid) => void;
}

/** Half as many pixels across over the same place. */
export function halved(grid: Grid): Grid {
  return { ...grid, scale: grid.scale / 2, width: Math.ceil(grid.width / 2), height: Math.ceil(grid.height / 2) };
}

export class Drafts {
  private next: Wish | null = null;
  private running = false;
  /** How long full drafts take, milliseconds. */
  private usualMs = 0;
  private timer = 0;
  private ended = 0;
  private shown = false;
  private resting = false;
  private closed = false;

  constructor(private readonly options: Options) {}

  close() {
    this.closed = true;
    window.clearTimeout(this.timer);
  }

  /** Show operations; what was wished for before and isn't asked for yet is forgotten. */
  want(operations: Operation[], region: readonly number[] | null) {
    this.next = { operations, region };
    this.resting = false;
    if (!this.running) void this.run();
  }

  /** The hand has let go: what is shown stays, and nothing more of it is asked for. */
  rest() {
    this.resting = true;
    this.next = null;
  }

  /** Nothing unsaved is to be seen any more; what still arrives isn't shown. */
  end() {
    this.ended += 1;
    this.next = null;
    this.shown = false;
  }

  private async run() {
    this.running = true;
    const ended = this.ended;
    while (this.next && !this.closed) {
      const wish = this.next;
      this.next = null;
      // Where full pixels come too slowly to follow the hand, half as many across have to do until
      // it rests.
      const coarse = !wish.fine && this.usualMs > SLOW_MS;
      const began = performance.now();
      const done = await this.fetch(wish, coarse, ended);
      const took = performance.now() - began;
      if (done && !coarse) this.usualMs = this.usualMs ? 0.5 * (this.usualMs + took) : took;
      if (done && coarse && !this.next) this.finer(wish, ended);
    }
    this.running = false;
  }

  /** Ask for a draft's full pixels once the hand has rested a little. */
  private finer(wish: Wish, ended: number) {
    window.clearTimeout(this.timer);
    this.timer = window.setTimeout(() => {
      if (ended !== this.ended || this.next || !this.shown || this.resting) return;
      this.next = { ...wish, fine: true };
      if (!this.running) void this.run();
    }, REST_MS);
  }

  private async fetch(wish: Wish, coarse: boolean, ended: number): Promise<boolean> {
    const part = this.options.gridOf(wish.region);
    if (!part) return false;
    const grid = coarse ? halved(part) : part;
    const bitmap = await this.options.fetch(grid, wish.operations);
    if (!bitmap) return false;
    if (ended === this.ended && !this.closed) {
      this.shown = true;
      this.options.show(bitmap, grid);
    } else bitmap.close();
    return true;
  }
}
