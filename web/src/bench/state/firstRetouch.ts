/** The first retouch: six steps, each done by doing it; kept on this machine. */
import { create } from "zustand";
import { persist } from "zustand/middleware";

export const STEPS = [
  ["look", "Zoom in: turn the wheel over the face, or press 1."],
  ["heal", "Click a spot. It is replaced by clean skin from nearby."],
  ["compare", "Hold Q to see the original."],
  ["even", "Open Even and choose the routine Everyday."],
  ["dim", "Dim a pass: drag its Strength."],
  ["deliver", "Press Deliver."],
] as const;
export type StepName = (typeof STEPS)[number][0];

interface FirstState {
  done: StepName[];
  /** Put away; Help brings it back. */
  away: boolean;
  tick: (step: StepName) => void;
  set: (part: Partial<Pick<FirstState, "done" | "away">>) => void;
}

export const useFirst = create<FirstState>()(
  persist(
    (set, get) => ({
      done: [],
      away: false,
      tick: (step) => {
        const { done, away } = get();
        if (!away && !done.includes(step)) set({ done: [...done, step] });
      },
      set: (part) => set(part),
    }),
    { name: "mellow-glass-first-retouch", partialize: ({ done, away }) => ({ done, away }) },
  ),
);
