/** What the bench knows: the portrait, its passes, and the gestures on their way to the server. */
import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import {
  ApiError,
  client,
  postNow,
  unwrap,
  type Operation,
  type Outcome,
  type Pass,
  type Portrait,
  type Schemas,
} from "../../api/client";
import type { Grid } from "../canvas/viewport";
import { applyChanges, findTouch } from "./model";

type History = Schemas["HistoryOut"];
type Followed = (outcome: Outcome) => void | Promise<void>;

/** Told when a gesture is saved, or refused (null); `painted` when its pixels are on the screen. */
type Done = (outcome: Outcome | null, painted: Promise<void>) => void;

/** A gesture that waits for its turn: an operation, or a step in the history. */
type Job =
  | { kind: "gesture"; operation: Operation; done?: Done }
  | { kind: "step"; by: 1 | -1 }
  | { kind: "to"; at: number };

export type Saving = "saved" | "saving" | "offline";

interface BenchState {
  portrait: Portrait | null;
  passes: Pass[];
  history: History;
  revision: number;
  saving: Saving;
  waiting: number;
  notice: string | null;
  /** A gesture that waits for a yes: the words, and what it does. */
  question: { text: string; yes: string; go: () => void } | null;
  problem: string | null;
  picked: string | null;
  /** Touches picked besides, for what is done to several at once. */
  also: string[];
  openPass: string | null;
  load: (id: string) => Promise<void>;
  /** Tell who paints: what follows an outcome or a reload, and which pixels are on the screen. */
  follow: (painted: Followed, reloaded: (revision: number) => void, seen: () => Grid | null) => void;
  gesture: (operation: Operation, done?: Done) => void;
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
const RETRY_MS = 2000;
/** What else an answer changes waits so long for its pixels. */
const PIXELS_FIRST_MS = 60;

let jobs: Job[] = [];
let busy = false;
let onPainted: Followed = () => undefined;
let onReloaded: (revision: number) => void = () => undefined;
let seenNow: () => Grid | null = () => null;

const pause = (ms: number) => new Promise<void>((resolve) => window.setTimeout(resolve, ms));
/** Once what was drawn is on the screen. */
const nextFrame = () => new Promise<void>((resolve) => requestAnimationFrame(() => window.setTimeout(resolve)));

export const useBench = create<BenchState>((set, get) => {
  const send = (job: Job): Promise<Outcome> => {
    const { portrait, revision, history } = get();
    const path = `/api/portraits/${portrait!.id}`;
    if (job.kind === "gesture")
      return postNow<Outcome>(`${path}/gestures`, { revision, operation: job.operation, seen: seenNow() });
    const to = job.kind === "to" ? job.at : history.at + job.by;
    return postNow<Outcome>(`${path}/history`, { revision, to, seen: seenNow() });
  };

  const accept = async (outcome: Outcome) => {
    const painted = Promise.resolve(onPainted(outcome));
    // The pixels first: with hundreds of touches the lists take longer to draw than the picture.
    await Promise.race([painted.then(nextFrame, () => undefined), pause(PIXELS_FIRST_MS)]);
    const passes = applyChanges(get().passes, outcome.changes);
    set((s) => ({
      passes,
      revision: outcome.revision,
      history: outcome.history,
      picked: findTouch(passes, s.picked) ? s.picked : null,
      also: s.also.filter((id) => findTouch(passes, id)),
      openPass: outcome.pass_id ?? (passes.some((p) => p.id === s.openPass) ? s.openPass : null),
      notice: outcome.notice ?? s.notice,
    }));
    // In a wrapping, or it would be waited for.
    return { painted };
  };

  /** True when the job is settled; false when it has to be tried again. */
  const attempt = async (job: Job): Promise<boolean> => {
    const { history } = get();
    if (job.kind === "step" && (job.by < 0 ? !history.undo : !history.redo)) return true;
    try {
      const outcome = await send(job);
      const { painted } = await accept(outcome);
      if (job.kind === "gesture") job.done?.(outcome, painted);
      return true;
    } catch (error) {
      const problem = error as ApiError;
      // No line, or the studio is busy or restarting: the same again later. An error of its own (500)
      // would only come again.
      if (problem.status === 0 || problem.status > 500) return false;
      if (problem.status === 409) {
        await get().catchUp();
        set({ notice: problem.message });
        // What only adds something fits on any state; the rest would act on what has changed.
        if (job.kind === "gesture" && job.operation.op.startsWith("add_")) return false;
      } else set({ problem: problem.message });
      if (job.kind === "gesture") job.done?.(null, Promise.resolve());
      return true;
    }
  };

  const run = async () => {
    if (busy) return;
    busy = true;
    let failures = 0;
    while (jobs.length) {
      const job = jobs[0]!;
      // Sent before anything is drawn anew for it.
      const settled = attempt(job);
      set({ saving: failures ? "offline" : "saving", waiting: jobs.length });
      if (await settled) {
        if (failures > 1) set({ notice: "The connection is back; what you did meanwhile is being saved." });
        failures = 0;
        jobs = jobs.filter((j) => j !== job);
      } else {
        failures += 1;
        if (failures > 1) {
          set({ saving: "offline" });
          await pause(RETRY_MS);
        }
      }
      if (jobs.length) set({ waiting: jobs.length });
    }
    busy = false;
    set({ saving: "saved", waiting: 0 });
  };

  const push = (job: Job) => {
    jobs.push(job);
    if (busy) set({ waiting: jobs.length });
    void run();
  };

  return {
    portrait: null,
    passes: [],
    history: NO_HISTORY,
    revision: 0,
    saving: "saved",
    waiting: 0,
    notice: null,
    question: null,
    problem: null,
    picked: null,
    also: [],
    openPass: null,

    load: async (id) => {
      jobs = [];
      set({ portrait: null, passes: [], picked: null, also: [], openPass: null, notice: null, problem: null });
      const desk = await unwrap(
        client.GET("/api/portraits/{portrait_id}/desk", { params: { path: { portrait_id: id } } }),
      );
      set({
        portrait: desk.portrait,
        passes: desk.passes,
        history: desk.history,
        revision: desk.portrait.revision,
        openPass: desk.passes.at(-1)?.id ?? null,
        waiting: 0,
        saving: "saved",
      });
    },
    catchUp: async () => {
      const { portrait } = get();
      if (!portrait) return;
      try {
        const desk = await unwrap(
          client.GET("/api/portraits/{portrait_id}/desk", {
            params: { path: { portrait_id: portrait.id } },
          }),
        );
        const changed = desk.portrait.revision !== get().revision;
        set({
          portrait: desk.portrait,
          passes: desk.passes,
          history: desk.history,
          revision: desk.portrait.revision,
        });
        if (changed) onReloaded(desk.portrait.revision);
      } catch (error) {
        set({ problem: (error as ApiError).message });
      }
    },
    follow: (painted, reloaded, seen) => {
      onPainted = painted;
      onReloaded = reloaded;
      seenNow = seen;
    },
    gesture: (operation, done) => push({ kind: "gesture", operation, done }),
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
