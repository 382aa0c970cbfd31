/** Limits beyond which a result no longer looks natural; set by the user, kept in this browser. */
import { create } from "zustand";
import { persist } from "zustand/middleware";

interface Limits {
  /** Per cent of the original's fine texture. */
  least: number;
  most: number;
  /** Median CIEDE2000. */
  change: number;
  set: (part: Partial<Omit<Limits, "set">>) => void;
}

export const useLimits = create<Limits>()(
  persist((set) => ({ least: 85, most: 110, change: 5, set: (part) => set(part) }), { name: "mellow-glass-limits" }),
);

export function beyond(reading: { texture: number; change: number }, limits: Omit<Limits, "set">): boolean {
  return reading.texture < limits.least || reading.texture > limits.most || reading.change > limits.change;
}
