/** The natural check: when it was asked for, what it found, and the way of a reading through the history. */
import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { client, unwrap, type Finding, type Schemas } from "../../api/client";
import { useBenchParts } from "./bench";

export type AtStep = Schemas["AtStepOut"];

interface CheckState {
  /** Portrait and revision that were asked about. */
  asked: { id: string; revision: number } | null;
  /** Whether the places are outlined in the picture. */
  shown: boolean;
  set: (part: Partial<Pick<CheckState, "asked" | "shown">>) => void;
}

export const useCheckState = create<CheckState>((set) => ({ asked: null, shown: true, set: (part) => set(part) }));

/** What was found, if it was asked for on this portrait. */
export function useCheck() {
  const { portrait, revision } = useBenchParts("portrait", "revision");
  const asked = useCheckState((s) => s.asked);
  const id = portrait?.id ?? "";
  const mine = asked?.id === id ? asked.revision : null;
  const check = useQuery({
    queryKey: ["natural", id, mine],
    queryFn: () => unwrap(client.GET("/api/portraits/{portrait_id}/natural", { params: { path: { portrait_id: id } } })),
    enabled: id !== "" && mine !== null,
    staleTime: Infinity,
    retry: false,
  });
  return { id, revision, check, old: check.data !== undefined && mine !== revision };
}

export function askNow(id: string, revision: number) {
  useCheckState.getState().set({ asked: { id, revision } });
}

/** A reading and its limit, in numbers. */
export function numbers(f: Finding): string {
  const value = f.unit === "" ? f.value.toFixed(0) : `${f.value.toFixed(Math.abs(f.value) < 10 ? 1 : 0)} ${f.unit}`;
  if (f.side === "told" || f.limit < 0) return value;
  return `${value}, ${f.side === "most" ? "at most" : "at least"} ${f.limit}`;
}

/** Zones with a reading beyond its limit, and those with some within. */
export function zonesOf(found: readonly Finding[], face: number): ReadonlyMap<string, boolean> {
  const out = new Map<string, boolean>();
  for (const f of found)
    if (f.zone && f.face === face && f.side !== "told") out.set(f.zone, (out.get(f.zone) ?? false) || f.amber);
  return out;
}

/** Steps of a history to look at: no more than `most`, both ends among them. */
export function stepsOf(at: number, most: number): number[] {
  if (at < most) return Array.from({ length: at + 1 }, (_, n) => n);
  return Array.from({ length: most }, (_, n) => Math.round((n * at) / (most - 1)));
}

/** Between which two looked-at steps a reading crossed its limit last: the first of them within, the second beyond. */
export function crossing(found: readonly AtStep[]): [AtStep, AtStep] | null {
  for (let n = found.length - 1; n > 0; n--) {
    const [before, after] = [found[n - 1]!, found[n]!];
    if (after.amber && !before.amber) return [before, after];
  }
  return null;
}

/** Follow a reading through the history; `tell` gets what is known so far. Ends at the step that crossed its limit. */
export async function follow(id: string, f: Finding, at: number, tell: (found: AtStep[]) => void, stopped: () => boolean): Promise<void> {
  const found: AtStep[] = [];
  const look = async (step: number) => {
    const query = { step, reading: f.name, zone: f.zone, ...(f.face !== null && { face: f.face }) };
    const one = await unwrap(client.GET("/api/portraits/{portrait_id}/natural/at", { params: { path: { portrait_id: id }, query } }));
    found.push(one);
    found.sort((a, b) => a.step - b.step);
    if (!stopped()) tell([...found]);
  };
  for (const step of stepsOf(at, MOST_STEPS)) {
    if (stopped()) return;
    await look(step);
  }
  // Down to the one gesture.
  for (let gap = crossing(found); gap && gap[1].step - gap[0].step > 1 && !stopped(); gap = crossing(found))
    await look(Math.floor((gap[0].step + gap[1].step) / 2));
}
const MOST_STEPS = 9;
