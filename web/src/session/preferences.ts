/** The user's own keys, brushes and settings of passes, kept by the studio. */
import { create } from "zustand";
import { client, unwrapAs, type ApiError, type Brush, type Kept, type Preferences } from "../api/client";
import { rebind, type Bindings } from "../bench/keys";

interface PreferencesState extends Preferences {
  keys: Bindings;
  brushes: Brush[];
  kept: Kept[];
  card: NonNullable<Preferences["card"]>;
  presets: NonNullable<Preferences["presets"]>;
  looks: NonNullable<Preferences["looks"]>;
  problem: string | null;
  load: () => Promise<void>;
  /** Store a part; true when it is kept. */
  save: (part: Partial<Preferences>) => Promise<boolean>;
}

const NOBODY = { creator: "", rights: "", email: "", website: "", title: "" };

export const usePreferences = create<PreferencesState>((set, get) => {
  const take = ({ keys, brushes, kept = [], card = NOBODY, presets = [], looks = [] }: Preferences) => {
    rebind(keys);
    set({ keys, brushes, kept, card, presets, looks, problem: null });
  };
  return {
    keys: {},
    brushes: [],
    kept: [],
    card: NOBODY,
    presets: [],
    looks: [],
    problem: null,
    load: async () => {
      try {
        take(await unwrapAs<Preferences>(client.GET("/api/preferences")));
      } catch {
        // Without them everything works with the usual keys.
      }
    },
    save: async (part) => {
      const { keys, brushes, kept, card, presets, looks } = get();
      try {
        take(await unwrapAs<Preferences>(client.PUT("/api/preferences", { body: { keys, brushes, kept, card, presets, looks, ...part } })));
        return true;
      } catch (error) {
        set({ problem: (error as ApiError).message });
        return false;
      }
    },
  };
});
