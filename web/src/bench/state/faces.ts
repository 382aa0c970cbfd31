/** What the bench knows of the faces: analysis, zone shown, marks, sweep. */
import { create } from "zustand";
import { ApiError, client, unwrapAs, type Schemas } from "../../api/client";
import { useBench } from "./bench";
import { sizedLabel } from "./marks";

export type Analysis = Schemas["AnalysisOut"];
export type Mark = Schemas["MarkOut"];
export type Place = Schemas["PlaceOut"];
export type Face = Schemas["FaceOut"];
export type Decision = Mark["decision"];
export type ZoneShow = "off" | "tint" | "mask" | "glass";

interface FacesState {
  id: string | null;
  analysis: Analysis | null;
  face: number;
  problem: string | null;
  zone: string;
  zoneShow: ZoneShow;
  marksShown: boolean;
  sensitivity: number;
  selected: string[];
  start: (id: string) => void;
  stop: () => void;
  refresh: () => Promise<void>;
  again: () => Promise<void>;
  set: (part: Partial<Pick<FacesState, "face" | "zone" | "zoneShow" | "marksShown" | "sensitivity" | "selected">>) => void;
  markSeen: (zones: string[]) => void;
  decide: (marks: Mark[], decision: Decision) => void;
}

const POLL_MS = 700;
let timer = 0;

export const useFaces = create<FacesState>((set, get) => {
  const accept = (id: string, analysis: Analysis) => {
    if (get().id !== id) return;
    set((s) => ({ analysis, face: Math.min(s.face, Math.max(analysis.faces.length - 1, 0)), problem: null }));
    window.clearTimeout(timer);
    if (analysis.state === "waiting" || analysis.state === "working")
      timer = window.setTimeout(() => void get().refresh(), POLL_MS);
  };
  const call = async (fetching: (id: string) => Promise<Analysis>) => {
    const { id } = get();
    if (!id) return;
    try {
      accept(id, await fetching(id));
    } catch (error) {
      set({ problem: (error as ApiError).message });
      window.clearTimeout(timer);
      timer = window.setTimeout(() => void get().refresh(), 5 * POLL_MS);
    }
  };
  return {
    id: null,
    analysis: null,
    face: 0,
    problem: null,
    zone: "skin",
    zoneShow: "off",
    marksShown: false,
    sensitivity: 50,
    selected: [],
    start: (id) => {
      set({ id, analysis: null, face: 0, problem: null, zoneShow: "off", marksShown: false, selected: [] });
      void get().refresh();
    },
    stop: () => {
      window.clearTimeout(timer);
      set({ id: null, analysis: null });
    },
    refresh: () =>
      call((id) =>
        unwrapAs<Analysis>(client.GET("/api/portraits/{portrait_id}/analysis", { params: { path: { portrait_id: id } } })),
      ),
    again: () =>
      call((id) =>
        unwrapAs<Analysis>(client.POST("/api/portraits/{portrait_id}/analysis", { params: { path: { portrait_id: id } } })),
      ),
    set: (part) => set(part),
    markSeen: (zones) => {
      const { id, analysis } = get();
      if (!id || !analysis) return;
      const seen = [...new Set([...analysis.seen, ...zones])];
      if (seen.length === analysis.seen.length) return;
      set({ analysis: { ...analysis, seen } });
      void client.PUT("/api/portraits/{portrait_id}/sweep", {
        params: { path: { portrait_id: id } },
        body: { seen },
      });
    },
    decide: (marks, decision) => {
      const { analysis } = get();
      const changing = marks.filter((m) => m.decision !== decision);
      if (!analysis || changing.length === 0) return;
      const ids = new Set(changing.map((m) => m.id));
      // Shown and heeded at once, as decided by the user; the saved decision follows with its touch.
      set({
        analysis: {
          ...analysis,
          marks: analysis.marks.map((m) => (ids.has(m.id) ? { ...m, decision, touch_id: m.touch_id ?? "" } : m)),
        },
      });
      useBench.getState().gesture(
        {
          op: "add_touches",
          kind: "marks",
          label: sizedLabel(changing.length, decision),
          touches: changing.map((m) => ({
            path: [[m.x, m.y]],
            values: { decision, radius_px: Math.max(m.radius, 0.5) },
          })),
        },
        () => void get().refresh(),
      );
    },
  };
});
