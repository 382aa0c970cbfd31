/** What the hand does and how the bench looks: remembered in this browser. */
import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { Lens } from "../canvas/Painter";

export type RingMode = "always" | "near" | "never";
/** What a click or stroke does. */
export type Mode = "heal" | "clone" | "zone" | "colour" | "lasso" | "face" | "iris" | "nudge";
export const RING_MODES: RingMode[] = ["always", "near", "never"];

/** Where strokes take from: proposed by the studio, or chosen by hand. */
export interface Chosen {
  /** The chosen place, pixels of the original. */
  x: number;
  y: number;
  /** Fixed by the first stroke when the source goes along with the hand. */
  offset: [number, number] | null;
}

export const PAINTING: readonly Mode[] = ["heal", "clone", "zone"];
export const TAKING: readonly Mode[] = ["heal", "clone"];

/** The source offset of a stroke that begins at (`x`, `y`); null where none was chosen. */
export function offsetFor(chosen: Chosen | null, aligned: boolean, x: number, y: number): [number, number] | null {
  if (!chosen) return null;
  if (aligned && chosen.offset) return chosen.offset;
  return [Math.round(chosen.x - x), Math.round(chosen.y - y)];
}

interface HandState {
  flow: number;
  chosen: Chosen | null;
  aligned: boolean;
  mode: Mode;
  adding: boolean;
  edges: number;
  tolerance: number;
  feather: number;
  radius: number;
  softness: number;
  opacity: number;
  rings: RingMode;
  glass: boolean;
  lens: Lens;
  comparing: boolean;
  panning: boolean;
  set: (part: Partial<Omit<HandState, "set">>) => void;
  grow: (factor: number) => void;
}

export const SMALLEST = 1;
export const LARGEST = 600;

export const useHand = create<HandState>()(
  persist(
    (set) => ({
      mode: "heal",
      flow: 100,
      chosen: null,
      aligned: true,
      adding: true,
      edges: 50,
      tolerance: 12,
      feather: 0,
      radius: 24,
      softness: 20,
      opacity: 100,
      rings: "near",
      glass: false,
      lens: { x: 260, y: 240, radius: 110 },
      comparing: false,
      panning: false,
      set: (part) => set(part),
      grow: (factor) =>
        set((s) => {
          const wanted = s.radius * factor;
          const moved = factor > 1 ? Math.max(wanted, s.radius + 0.5) : Math.min(wanted, s.radius - 0.5);
          return { radius: Math.round(Math.min(Math.max(moved, SMALLEST), LARGEST) * 2) / 2 };
        }),
    }),
    {
      name: "mellow-glass-hand",
      partialize: ({ radius, softness, opacity, flow, aligned, rings, glass, lens }) => ({
        radius,
        softness,
        opacity,
        flow,
        aligned,
        rings,
        glass,
        lens,
      }),
    },
  ),
);
