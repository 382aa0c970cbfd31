/** Working light: the grey around the picture, the chrome's brightness, the size of controls; kept on this machine. */
import { create } from "zustand";
import { persist } from "zustand/middleware";

export const SURROUNDS = ["dark", "mid", "light"] as const;
export type Surround = (typeof SURROUNDS)[number];

interface LightState {
  surround: Surround;
  dim: boolean;
  large: boolean;
  /** Only the picture is there. */
  bare: boolean;
  set: (part: Partial<Omit<LightState, "set">>) => void;
}

export const useLight = create<LightState>()(
  persist((set) => ({ surround: "mid", dim: false, large: false, bare: false, set: (part) => set(part) }), {
    name: "mellow-glass-light",
    partialize: ({ surround, dim, large }) => ({ surround, dim, large }),
  }),
);
