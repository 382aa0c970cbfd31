/** What the hand does and how the bench looks: remembered in this browser. */
import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { Schemas } from "../../api/client";
import type { Band } from "./bandNames";

export type Elsewhere = Schemas["Elsewhere"];
export type RingMode = "always" | "near" | "picked" | "never";
/** What a click or stroke does. */
export type Mode =
  | "heal"
  | "clone"
  | "patch"
  | "fill"
  | "blend"
  | "dodge_burn"
  | "red_eye"
  | "borrow"
  | "hairs"
  | "ease"
  | "clip"
  | "gradient"
  | "pick"
  | "press"
  | "neutral"
  | "hue"
  | "zone"
  | "colour"
  | "lasso"
  | "face"
  | "iris"
  | "nudge"
  | "push"
  | "pull"
  | "part"
  | "strands"
  | "hairline"
  | "stain";
export type ShapeAct = "push" | "widen" | "narrow" | "turn_right" | "turn_left" | "smooth" | "bring_back";
export const RING_MODES: RingMode[] = ["always", "near", "picked", "never"];

/** Where strokes take from: proposed by the studio, or chosen by hand. */
export interface Chosen {
  /** The chosen place, pixels of the original. */
  x: number;
  y: number;
  /** Fixed by the first stroke when the source goes along with the hand. */
  offset: [number, number] | null;
  /** It lies in another original, laid over this one. */
  elsewhere?: Elsewhere;
}

/** The source offset of a stroke that begins at (`x`, `y`); null where none was chosen. */
export function offsetFor(chosen: Chosen | null, aligned: boolean, x: number, y: number): [number, number] | null {
  if (!chosen) return null;
  if (aligned && chosen.offset) return chosen.offset;
  return [Math.round(chosen.x - x), Math.round(chosen.y - y)];
}

/** The Glass: where it lies on the picture, CSS pixels. */
export interface Lens {
  x: number;
  y: number;
  radius: number;
}

interface HandState {
  band: Band;
  /** Where tone and detail divide, in mm. */
  divide: number;
  flow: number;
  chosen: Chosen | null;
  aligned: boolean;
  mode: Mode;
  adding: boolean;
  /** Patches: blended or copied, and the width of their soft edge in pixels. */
  way: "blend" | "copy";
  edge: number;
  fillBy: "brush" | "outline";
  /** Hairs are drawn one by one or planted, this long. */
  hairs: "one" | "many";
  /** Of a strand drawn along, pixels of the original. */
  strandWidth: number;
  hairLength: number;
  /** What a stroke in Shape does, how softly and how much. */
  shapeAct: ShapeAct;
  shapeSoft: number;
  shapeAmount: number;
  /** The border over which a part that is moved fades. */
  partSoft: number;
  /** Features that a move isn't about stay where they are. */
  holdFeatures: boolean;
  /** Fills may draw from other zones of the face, too. */
  anywhere: boolean;
  /** Dodge and burn: which of them, on what, how strongly. */
  light: "dodge" | "burn";
  lightRange: "shadows" | "midtones" | "highlights";
  exposure: number;
  /** Easing brings back instead. */
  reveal: boolean;
  /** Easing works on all passes of the open one's set. */
  easeSet: boolean;
  clipFeather: number;
  clipOutside: boolean;
  /** Painted masks keep to colours like those under the stroke, 0 to 100. */
  maskEdges: number;
  /** A pen's pressure drives size and opacity. */
  pressure: boolean;
  /** A pen was used here; only then is its switch shown. */
  penSeen: boolean;
  edges: number;
  tolerance: number;
  feather: number;
  radius: number;
  softness: number;
  opacity: number;
  rings: RingMode;
  glass: boolean;
  lens: Lens;
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
      band: "all",
      divide: 1,
      flow: 100,
      chosen: null,
      aligned: true,
      adding: true,
      way: "blend",
      edge: 6,
      fillBy: "brush",
      hairs: "many",
      strandWidth: 5,
      hairLength: 30,
      shapeAct: "push",
      shapeSoft: 70,
      shapeAmount: 100,
      partSoft: 60,
      holdFeatures: true,
      anywhere: false,
      light: "dodge",
      lightRange: "midtones",
      exposure: 10,
      reveal: false,
      easeSet: false,
      clipFeather: 1,
      clipOutside: false,
      maskEdges: 0,
      pressure: true,
      penSeen: false,
      edges: 50,
      tolerance: 12,
      feather: 0,
      radius: 24,
      softness: 20,
      opacity: 100,
      rings: "near",
      glass: false,
      lens: { x: 260, y: 240, radius: 110 },
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
      partialize: ({ radius, softness, opacity, flow, aligned, rings, glass, lens, edge, pressure }) => ({
        radius,
        softness,
        opacity,
        flow,
        aligned,
        rings,
        glass,
        lens,
        edge,
        pressure,
      }),
    },
  ),
);
