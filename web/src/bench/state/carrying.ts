/** Passes on their way to another portrait: remembered in this browser. */
import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { Pass } from "../../api/client";
import { useBench } from "./bench";

interface Carried {
  portrait: string | null;
  ids: string[];
  title: string;
}

const NOTHING: Carried = { portrait: null, ids: [], title: "" };

export const useCarried = create<Carried>()(persist(() => NOTHING, { name: "mellow-glass-carried" }));

export function carry(passes: readonly Pass[]) {
  const { portrait, say } = useBench.getState();
  const title = passes.length === 1 ? passes[0]!.name : `${passes.length} passes`;
  useCarried.setState({ portrait: portrait!.id, ids: passes.map((p) => p.id), title });
  say(`${title} copied. Open the other portrait and bring it there.`);
}

/** Bring what is carried to the open portrait. */
export function bring() {
  const { portrait, ids } = useCarried.getState();
  if (portrait) useBench.getState().gesture({ op: "bring_passes", portrait_id: portrait, ids });
}
