/** The user's own keys, brushes and settings of passes, kept by the studio. */
import { create } from "zustand";
import { client, unwrapAs, type ApiError, type Brush, type Kept, type Preferences } from "../api/client";
import { rebind, type Bindings } from "../bench/keys";

type Stored = Required<Preferences>;

interface PreferencesState extends Preferences {
  keys: Bindings;
  brushes: Brush[];
  kept: Kept[];
  card: NonNullable<Preferences["card"]>;
  presets: NonNullable<Preferences["presets"]>;
  looks: NonNullable<Preferences["looks"]>;
  problem: string | null;
  load: () => Promise<void>;
  /** Store parts, made of what is stored now, which another window may have changed; true when they are kept. */
  save: (change: (now: Stored) => Partial<Preferences>) => Promise<boolean>;
}

/** A list with one of a name in it, in place of another that had it. */
export function withNamed<T extends { name: string }>(all: readonly T[], one: T): T[] {
  return [...withoutNamed(all, one.name), one];
}

export function withoutNamed<T extends { name: string }>(all: readonly T[], name: string): T[] {
  return all.filter((other) => other.name.toLowerCase() !== name.toLowerCase());
}

const NOBODY = { creator: "", rights: "", email: "", website: "", title: "" };

export const usePreferences = create<PreferencesState>((set, get) => {
  const take = ({ keys, brushes, kept = [], card = NOBODY, presets = [], looks = [] }: Preferences) => {
    rebind(keys);
    set({ keys, brushes, kept, card, presets, looks, problem: null });
  };
  const store = async (change: (now: Stored) => Partial<Preferences>) => {
    set({ problem: null });
    try {
      take(await unwrapAs<Preferences>(client.GET("/api/preferences")));
      // What is left out stays: the types of the API name it all the same.
      take(await unwrapAs<Preferences>(client.PATCH("/api/preferences", { body: change(get()) as Stored })));
      return true;
    } catch (error) {
      set({ problem: (error as ApiError).message });
      return false;
    }
  };
  let saving: Promise<unknown> = Promise.resolve();
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
    save: (change) => {
      // One after the other: each begins with what the one before it stored.
      const stored = saving.then(() => store(change));
      saving = stored;
      return stored;
    },
  };
});
