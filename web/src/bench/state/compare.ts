/** What is compared with what, and how: against the original, a take, without a pass, and so on. */
import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { Pass, Schemas } from "../../api/client";
import { BANDS, PARTS } from "./bandNames";

export type ShowName = Schemas["DraftView"]["show"];

/** What a view can show; `of` names the pass, take, step or band. */
export interface Show {
  show: NonNullable<ShowName>;
  of: string;
}

export type Mode = "off" | "wipe" | "side" | "stack" | "flicker";
export const MODES: { mode: Mode; title: string; icon: string; how: string }[] = [
  { mode: "off", title: "Off", icon: "square", how: "The result alone" },
  { mode: "wipe", title: "Wipe", icon: "layout-split", how: "A line across the picture; drag it" },
  { mode: "side", title: "Side by side", icon: "layout-sidebar-inset-reverse", how: "Two pictures that move together" },
  { mode: "stack", title: "One above the other", icon: "view-stacked", how: "Two pictures that move together" },
  { mode: "flicker", title: "Flicker", icon: "lightning", how: "One after the other, again and again" },
];

export const ORIGINAL: Show = { show: "original", of: "" };
export const RESULT: Show = { show: "result", of: "" };

/** Views through a printer's profile, in words. */
export const PRINTED = { proof: "As printed", gamut: "What the printer can't hold" };

interface CompareState {
  mode: Mode;
  against: Show;
  /** The line of the wipe: upright or level, and where, 0 to 1. */
  upright: boolean;
  at: number;
  flickerMs: number;
  /** What is seen instead of the result, and in the Glass. */
  instead: Show;
  inGlass: Show;
  /** Shown while a key or button is held. */
  held: Show | null;
  set: (part: Partial<Omit<CompareState, "set">>) => void;
}

export const useCompare = create<CompareState>()(
  persist(
    (set) => ({
      mode: "off",
      against: ORIGINAL,
      upright: true,
      at: 0.5,
      flickerMs: 700,
      instead: RESULT,
      inGlass: ORIGINAL,
      held: null,
      set: (part) => set(part),
    }),
    { name: "mellow-glass-compare", partialize: ({ upright, flickerMs }) => ({ upright, flickerMs }) },
  ),
);

export function keyOf({ show, of }: Show): string {
  return of ? `${show}:${of}` : show;
}

export function fromKey(key: string): Show {
  const [show, ...of] = key.split(":");
  return { show: show as Show["show"], of: of.join(":") };
}

interface Choice {
  key: string;
  title: string;
}

/** All that can be shown now, in words. */
export function choices(passes: readonly Pass[], openPass: string | null, takes: readonly { id: string; name: string }[]): Choice[] {
  const open = passes.find((p) => p.id === openPass);
  const list: Choice[] = [{ key: "original", title: "Original" }];
  if (open) list.push({ key: `without:${open.id}`, title: `Without ${open.name}` });
  for (const take of takes) list.push({ key: `take:${take.id}`, title: `Take: ${take.name}` });
  if (open) {
    list.push({ key: `mask:${open.id}`, title: `Mask of ${open.name}` });
    list.push({ key: `tint:${open.id}`, title: `Mask of ${open.name}, as a tint` });
    list.push({ key: `effect:${open.id}`, title: `Effect of ${open.name} alone` });
  }
  for (const part of PARTS) list.push({ key: `band:${part.name}`, title: part.title });
  for (const band of BANDS) list.push({ key: `band:${band.name}`, title: `Band: ${band.title.toLowerCase()}` });
  list.push({ key: "boosted", title: "Boosted colour" });
  list.push({ key: "change", title: "Change so far" });
  list.push({ key: "clipped", title: "What is clipped" });
  return list;
}

/** Whether something shown depends on passes that may be gone or another one open. */
export function stillThere(show: Show, passes: readonly Pass[]): boolean {
  return !["without", "mask", "tint", "effect"].includes(show.show) || passes.some((p) => p.id === show.of);
}
