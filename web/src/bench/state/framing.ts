/** The frame while it is worked on: its settings, how they come out, and what is drawn to help. */
import { create } from "zustand";
import { client, unwrap, type Schemas } from "../../api/client";
import type { Box } from "../canvas/cropping";
import { useBench } from "./bench";
import { kindsNow } from "./kinds";

type Made = Schemas["FramingOut"];
export type FrameSettings = Record<string, number | boolean | string>;

export const RATIOS = ["free", "own", "1:1", "5:4", "4:3", "3:2", "16:9", "typed"] as const;
export type Ratio = (typeof RATIOS)[number];
export const LINES = ["thirds", "centre", "eyes", "none"] as const;
export type Lines = (typeof LINES)[number];

interface FramingState {
  open: boolean;
  settings: FrameSettings;
  /** How the settings come out; of the newest that were tried. */
  made: Made | null;
  ratio: Ratio;
  /** The ratio is taken upright. */
  tall: boolean;
  typed: string;
  lines: Lines;
  ppi: number;
  /** A line that is to be level or upright is being drawn. */
  levelling: boolean;
  set: (part: Partial<Pick<FramingState, "ratio" | "tall" | "typed" | "lines" | "ppi" | "levelling">>) => void;
  enter: () => void;
  leave: () => void;
  /** Show settings that aren't saved. */
  live: (part: FrameSettings) => void;
  /** Save settings as one step. */
  commit: (part: FrameSettings, goesOn?: boolean) => void;
  /** Take up what is saved, as after undo. */
  follow: () => void;
}

/** The saved settings of the frame; as it comes where there is none. */
export function savedSettings(): FrameSettings {
  const kind = kindsNow().find((k) => k.way === "frame");
  const own = useBench.getState().passes.find((p) => p.kind === kind?.name);
  const usual = Object.fromEntries((kind?.settings ?? []).map((s) => [s.name, s.default]));
  // None of a frame's settings is a curve.
  return { ...usual, ...own?.settings } as FrameSettings;
}

let number = 0;

export const useFraming = create<FramingState>((set, get) => {
  const attempt = async (settings: FrameSettings) => {
    const { portrait } = useBench.getState();
    if (!portrait) return;
    const mine = (number += 1);
    try {
      const made = await unwrap(
        client.POST("/api/portraits/{portrait_id}/framing", {
          params: { path: { portrait_id: portrait.id } },
          body: { settings, face: 0 },
        }),
      );
      if (mine === number) set({ made });
    } catch (error) {
      useBench.setState({ problem: (error as Error).message });
    }
  };
  return {
    open: false,
    settings: {},
    made: null,
    ratio: "free",
    tall: true,
    typed: "7:5",
    lines: "thirds",
    ppi: 300,
    levelling: false,
    set: (part) => set(part),
    enter: () => {
      const settings = savedSettings();
      set({ open: true, settings, made: null, levelling: false });
      void attempt(settings);
    },
    leave: () => set({ open: false, levelling: false, made: null }),
    live: (part) => {
      const settings = { ...get().settings, ...part };
      set({ settings });
      void attempt(settings);
    },
    commit: (part, goesOn = false) => {
      get().live(part);
      useBench.getState().gesture({ op: "set_frame", settings: part }, (outcome) => !outcome && get().follow(), goesOn);
    },
    follow: () => {
      const settings = savedSettings();
      if (!get().open || JSON.stringify(settings) === JSON.stringify(get().settings)) return;
      set({ settings });
      void attempt(settings);
    },
  };
});

/** Whether the frame lies on its side: what is wide on the plane is tall on the screen. */
export function isTurned(settings: FrameSettings): boolean {
  return settings["turn"] === "90" || settings["turn"] === "270";
}

/** The ratio that is kept, width per height on the plane; 0: any. NaN: what was typed is no ratio. */
export function ratioOf(state: Pick<FramingState, "ratio" | "tall" | "typed" | "settings">): number {
  const { portrait } = useBench.getState();
  if (state.ratio === "free" || !portrait) return 0;
  let seen: number;
  if (state.ratio === "own") {
    const long = Math.max(portrait.width, portrait.height) / Math.min(portrait.width, portrait.height);
    seen = state.tall ? 1 / long : long;
  } else {
    const [a = NaN, b = NaN] = (state.ratio === "typed" ? state.typed : state.ratio).replace(",", ".").split(/[:/x×]/).map(Number);
    if (!(a > 0 && b > 0 && a / b <= 20 && b / a <= 20)) return NaN;
    const long = Math.max(a, b) / Math.min(a, b);
    seen = state.ratio === "typed" ? a / b : state.tall ? 1 / long : long;
  }
  return isTurned(state.settings) ? 1 / seen : seen;
}

export const boxOf = (made: Made) => made.rect as unknown as Box;
