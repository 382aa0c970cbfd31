/** How much texture is left, and the limits beyond which a result no longer looks natural. */
import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { client, unwrap } from "../../api/client";
import { useSettled } from "../../ui/useSettled";
import { useBenchParts } from "./bench";
import { useFaces } from "./faces";

const REST_MS = 900;

/** Set by the user, kept in this browser. */
interface Limits {
  /** The texture is read after each change, for the card and the face map. */
  reading: boolean;
  /** Per cent of the original's fine texture. */
  least: number;
  most: number;
  /** Median CIEDE2000. */
  change: number;
  set: (part: Partial<Omit<Limits, "set">>) => void;
}

export const useLimits = create<Limits>()(
  persist((set) => ({ reading: false, least: 85, most: 110, change: 5, set: (part) => set(part) }), {
    name: "mellow-glass-limits",
    partialize: ({ least, most, change }) => ({ least, most, change }),
  }),
);

export function beyond(
  reading: { texture: number; change: number },
  limits: Pick<Limits, "least" | "most" | "change">,
): boolean {
  return reading.texture < limits.least || reading.texture > limits.most || reading.change > limits.change;
}

/** A reading in words. */
export function inWords({ texture, change }: { texture: number; change: number }): string {
  return `texture ${Math.round(texture)} %, colour ${change.toFixed(1)} ΔE`;
}

/** Every zone of the face in hand, read anew when the hand rests; asked for while wanted. */
export function useReadings() {
  const { portrait, revision } = useBenchParts("portrait", "revision");
  const { analysis, face } = useFaces();
  const wanted = useLimits((s) => s.reading);
  const settled = useSettled(revision, REST_MS);
  const id = portrait?.id ?? "";
  return useQuery({
    queryKey: ["texture", id, face, settled],
    queryFn: () =>
      unwrap(
        client.GET("/api/portraits/{portrait_id}/texture", { params: { path: { portrait_id: id }, query: { face } } }),
      ),
    enabled: wanted && (analysis?.faces.length ?? 0) > 0 && id !== "",
    placeholderData: (before) => before,
  });
}
