/** What the hand does and how the bench looks: remembered in this browser. */
import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { Lens } from "../canvas/Painter";

export type RingMode = "always" | "near" | "never";
/** What a click or stroke does. */
export type Mode = "heal" | "zone" | "colour" | "lasso" | "face" | "iris" | "nudge";
export const RING_MODES: RingMode[] = ["always", "near", "never"];

interface HandState {
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
      partialize: ({ radius, softness, opacity, rings, glass, lens }) => ({
        radius,
        softness,
        opacity,
        rings,
        glass,
        lens,
      }),
    },
  ),
);
