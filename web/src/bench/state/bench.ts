/** What the bench knows: the portrait, its passes, and the gestures on their way to the server. */
import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import {
  ApiError,
  client,
  postNow,
  unwrapAs,
  type Operation,
  type Outcome,
  type Pass,
  type Portrait,
  type Schemas,
} from "../../api/client";
import { frameOf, setMoved, type Frame } from "../canvas/frame";
import type { Grid } from "../canvas/viewport";
import { Lanes, type Done, type Job, type Saving } from "./lanes";
import { applyChanges, findTouch } from "./model";

type History = Schemas["HistoryOut"];

/** Who paints: what follows an outcome or a reload, and which pixels are on the screen. */
export interface Follower {
  painted: (outcome: Outcome) => void | Promise<void>;
  reloaded: (revision: number) => void;
  seen: () => Grid | null;
}

interface BenchState {
  portrait: Portrait | null;
  /** How the picture is framed in the saved state. */
  frame: Frame | null;
  /** The analysis that the portrait hung on when it was opened; empty: of none. */
  faces: string;
  passes: Pass[];
  history: History;
  revision: number;
  saving: Saving;
  waiting: number;
  notice: string | null;
  /** What of the stored edit can't be used and is left aside, in words. */
  left: string[];
  /** A gesture that waits for a yes: the words, and what it does. */
  question: { text: string; yes: string; go: () => void } | null;
  problem: string | null;
  picked: string | null;
  /** Touches picked besides, for what is done to several at once. */
  also: string[];
  openPass: string | null;
  /** The pass that the last touch went into. */
  worked: { pass: string } | null;
  load: (id: string) => Promise<void>;
  /** Tell who paints; the answer takes it back. */
  follow: (follower: Follower) => () => void;
  /** `goesOn`: with the gesture just before it, such as a key pressed again. */
  gesture: (operation: Operation, done?: Done, goesOn?: boolean) => void;
  undo: () => void;
  redo: () => void;
  goTo: (at: number) => void;
  pick: (id: string | null) => void;
  /** Add a touch to the picked ones, or take it out. */
  pickAlso: (id: string) => void;
  pickAll: (ids: string[]) => void;
  open: (passId: string | null) => void;
  say: (notice: string | null) => void;
  ask: (question: BenchState["question"]) => void;
  catchUp: () => Promise<void>;
}

const NO_HISTORY: History = { at: 0, count: 0, undo: null, redo: null };
/** What else an answer changes waits so long for its pixels. */
const PIXELS_FIRST_MS = 60;
/** What was told so long ago could be read: with the next step it is over. */
const TOLD_MS = 4000;

let toldAt = 0;
const read = () => performance.now() - toldAt > TOLD_MS;

let follower: Follower | null = null;

const pause = (ms: number) => new Promise<void>((resolve) => window.setTimeout(resolve, ms));
/** Once what was drawn is on the screen. */
const nextFrame = () => new Promise<void>((resolve) => requestAnimationFrame(() => window.setTimeout(resolve)));

export function deskOf(id: string): Promise<Schemas["DeskOut"]> {
  return unwrapAs(client.GET("/api/portraits/{portrait_id}/desk", { params: { path: { portrait_id: id } } }));
}

export const useBench = create<BenchState>((set, get) => {
  const isOpen = (id: string) => get().portrait?.id === id;

  const accept = async (id: string, outcome: Outcome) => {
    // The answer to a gesture on a portrait that was left changes nothing here.
    if (!isOpen(id)) return { painted: Promise.resolve() };
    // In another frame all lies elsewhere: who paints begins anew with it.
    const [frame, sent] = [get().frame, outcome.frame];
    const reframed = !!sent && sent.key !== frame?.key;
    if (frame && sent && !reframed) setMoved(frame, sent.moved);
    const painted = Promise.resolve(reframed ? undefined : follower?.painted(outcome));
    // The pixels first: with hundreds of touches the lists take longer to draw than the picture.
    await Promise.race([painted.then(nextFrame, () => undefined), pause(PIXELS_FIRST_MS)]);
    if (isOpen(id)) {
      const passes = applyChanges(get().passes, outcome.changes);
      const into = outcome.touch_id ? findTouch(passes, outcome.touch_id)?.pass.id : undefined;
      set((s) => ({
        passes,
        ...(into !== undefined && { worked: { pass: into } }),
        frame: reframed ? frameOf(sent) : s.frame,
        revision: outcome.revision,
        history: outcome.history,
        picked: findTouch(passes, s.picked) ? s.picked : null,
        also: s.also.filter((one) => findTouch(passes, one)),
        openPass: outcome.pass_id ?? (passes.some((p) => p.id === s.openPass) ? s.openPass : null),
        notice: outcome.notice ?? (read() ? null : s.notice),
        problem: read() ? null : s.problem,
      }));
    }
    // In a wrapping, or it would be waited for.
    return { painted };
  };

  /** The state as the server has it; of an open portrait it is shown. */
  const refresh = async (id: string): Promise<Schemas["DeskOut"]> => {
    const desk = await deskOf(id);
    if (isOpen(id)) {
      const changed = desk.portrait.revision !== get().revision;
      const frame = get().frame;
      const reframed = desk.frame.key !== frame?.key;
      if (frame && !reframed) setMoved(frame, desk.frame.moved);
      set({
        portrait: desk.portrait,
        ...(reframed ? { frame: frameOf(desk.frame) } : {}),
        passes: desk.passes,
        history: desk.history,
        left: desk.left,
        revision: desk.portrait.revision,
      });
      if (changed && !reframed) follower?.reloaded(desk.portrait.revision);
    }
    return desk;
  };

  const lanes = new Lanes({
    retryMs: 2000,
    send: (path, body) => postNow<Outcome>(path, body),
    accept,
    refresh,
    seen: (id) => (isOpen(id) ? (follower?.seen() ?? null) : null),
    status: (id, saving, waiting) => isOpen(id) && set({ saving, waiting }),
    say: (id, kind, text) => {
      if (isOpen(id)) set(kind === "notice" ? { notice: text } : { problem: text });
    },
  });
  window.addEventListener("beforeunload", (event) => {
    if (lanes.busy()) event.preventDefault();
  });
  const push = (job: Job) => {
    const { portrait, revision, history } = get();
    if (portrait) lanes.push(portrait.id, job, { revision, history });
  };

  return {
    portrait: null,
    frame: null,
    faces: "",
    passes: [],
    history: NO_HISTORY,
    revision: 0,
    saving: "saved",
    waiting: 0,
    notice: null,
    question: null,
    left: [],
    problem: null,
    picked: null,
    also: [],
    openPass: null,
    worked: null,

    load: async (id) => {
      set({ portrait: null, passes: [], picked: null, also: [], openPass: null, worked: null, left: [], notice: null, problem: null });
      // What is still being saved of it comes first.
      await lanes.idle(id);
      const desk = await deskOf(id);
      set({
        portrait: desk.portrait,
        frame: frameOf(desk.frame),
        passes: desk.passes,
        history: desk.history,
        left: desk.left,
        revision: desk.portrait.revision,
        faces: desk.faces ?? "",
        openPass: desk.passes.at(-1)?.id ?? null,
        waiting: 0,
        saving: "saved",
      });
    },
    catchUp: async () => {
      const { portrait } = get();
      if (!portrait) return;
      try {
        await refresh(portrait.id);
      } catch (error) {
        set({ problem: (error as ApiError).message });
      }
    },
    follow: (one) => {
      follower = one;
      return () => {
        if (follower === one) follower = null;
      };
    },
    gesture: (operation, done, goesOn = false) => push({ kind: "gesture", operation, done, goesOn }),
    undo: () => push({ kind: "step", by: -1 }),
    redo: () => push({ kind: "step", by: 1 }),
    goTo: (at) => push({ kind: "to", at }),
    pick: (picked) => set({ picked, also: [] }),
    pickAlso: (id) =>
      set((s) => {
        if (s.picked === null) return { picked: id };
        if (s.picked === id) return { picked: s.also[0] ?? null, also: s.also.slice(1) };
        return { also: s.also.includes(id) ? s.also.filter((i) => i !== id) : [...s.also, id] };
      }),
    pickAll: (ids) => set({ picked: ids[0] ?? null, also: ids.slice(1) }),
    open: (openPass) => set({ openPass }),
    say: (notice) => set({ notice, problem: null }),
    ask: (question) => set({ question }),
  };
});

// From wherever it was told.
useBench.subscribe((now, before) => {
  const told = now.problem !== before.problem || now.notice !== before.notice;
  if (told && (now.problem ?? now.notice)) toldAt = performance.now();
});

/** Parts of the bench by name; what shows them is drawn anew only when one of them changes. */
export function useBenchParts<K extends keyof BenchState>(...names: K[]): Pick<BenchState, K> {
  return useBench(
    useShallow((s) => Object.fromEntries(names.map((name) => [name, s[name]])) as Pick<BenchState, K>),
  );
}

/** All picked touches, the one in hand first. */
export function pickedOnes(): string[] {
  const { picked, also } = useBench.getState();
  return picked ? [picked, ...also] : also;
}

/** Move a pass one place up or down among those that are shown with it, the lowest first. */
export function movePass(id: string, by: 1 | -1, shown: readonly Pass[]) {
  const { passes, gesture } = useBench.getState();
  const next = shown[shown.findIndex((p) => p.id === id) + by];
  if (next && next.id !== id) gesture({ op: "move_pass", id, index: passes.findIndex((p) => p.id === next.id) });
}
