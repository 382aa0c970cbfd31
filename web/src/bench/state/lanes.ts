/**
 * Gestures on their way to the server, one after the other, in a lane for each portrait: what was
 * done on a portrait that is left meanwhile is still saved, and its answer changes no other.
 */
import { ApiError, type Operation, type Outcome, type Schemas } from "../../api/client";
import type { Grid } from "../canvas/viewport";

type History = Schemas["HistoryOut"];
export type Saving = "saved" | "saving" | "offline";

/** Told when a gesture is saved, or refused (null); `painted` when its pixels are on the screen. */
export type Done = (outcome: Outcome | null, painted: Promise<void>) => void;

/** A gesture that waits for its turn: an operation, or a step in the history. */
export type Job =
  | { kind: "gesture"; operation: Operation; done?: Done; goesOn: boolean }
  | { kind: "step"; by: 1 | -1 }
  | { kind: "to"; at: number };

/** What a lane needs to know of its portrait. */
interface State {
  revision: number;
  history: History;
}

interface Lane extends State {
  id: string;
  jobs: Job[];
  busy: boolean;
  /** When the last job came, milliseconds of the window's clock. */
  pushedAt: number;
  whenIdle: (() => void)[];
}

export interface Options {
  send: (path: string, body: unknown) => Promise<Outcome>;
  accept: (id: string, outcome: Outcome) => Promise<{ painted: Promise<void> }>;
  refresh: (id: string) => Promise<Schemas["DeskOut"]>;
  seen: (id: string) => Grid | null;
  status: (id: string, saving: Saving, waiting: number) => void;
  say: (id: string, kind: "notice" | "problem", text: string) => void;
  /** How long to wait where nobody can be reached, milliseconds. */
  retryMs: number;
}

/** Presses of a key within so long are one step of the history, milliseconds. */
const GOES_ON_MS = 2000;

const pause = (ms: number) => new Promise<void>((resolve) => window.setTimeout(resolve, ms));

export class Lanes {
  private readonly lanes = new Map<string, Lane>();

  constructor(private readonly options: Options) {}

  /** Queue a job; `state` is what is known of the portrait where nothing is under way. */
  push(id: string, job: Job, state: State) {
    let lane = this.lanes.get(id);
    if (!lane) {
      lane = { id, ...state, jobs: [], busy: false, pushedAt: -Infinity, whenIdle: [] };
      this.lanes.set(id, lane);
    }
    if (!lane.busy) Object.assign(lane, state);
    const now = performance.now();
    const again = now - lane.pushedAt < GOES_ON_MS;
    lane.pushedAt = now;
    // Told by the hand's pauses, not by the answers': a slow line doesn't make more steps of a key held down.
    lane.jobs.push(job.kind === "gesture" ? { ...job, goesOn: job.goesOn && again } : job);
    if (lane.busy) this.options.status(id, "saving", lane.jobs.length);
    else void this.run(lane);
  }

  /** Once nothing of a portrait is on its way any more. */
  idle(id: string): Promise<void> {
    const lane = this.lanes.get(id);
    if (!lane?.busy) return Promise.resolve();
    return new Promise((resolve) => lane.whenIdle.push(resolve));
  }

  /** Whether anything is still to be saved. */
  busy(): boolean {
    return [...this.lanes.values()].some((lane) => lane.busy);
  }

  private async run(lane: Lane) {
    lane.busy = true;
    let failures = 0;
    while (lane.jobs.length) {
      const job = lane.jobs[0]!;
      // Sent before anything is drawn anew for it.
      const settled = this.attempt(lane, job);
      this.options.status(lane.id, failures ? "offline" : "saving", lane.jobs.length);
      if (await settled) {
        if (failures > 1)
          this.options.say(lane.id, "notice", "The connection is back; what you did meanwhile is being saved.");
        failures = 0;
        lane.jobs = lane.jobs.filter((j) => j !== job);
      } else {
        failures += 1;
        if (failures > 1) {
          this.options.status(lane.id, "offline", lane.jobs.length);
          await pause(this.options.retryMs);
        }
      }
      if (lane.jobs.length) this.options.status(lane.id, failures > 1 ? "offline" : "saving", lane.jobs.length);
    }
    lane.busy = false;
    this.options.status(lane.id, "saved", 0);
    for (const resolve of lane.whenIdle.splice(0)) resolve();
  }

  private send({ id, revision, history }: Lane, job: Job): Promise<Outcome> {
    const path = `/api/portraits/${id}`;
    const seen = this.options.seen(id);
    if (job.kind === "gesture") {
      const { operation, goesOn: goes_on } = job;
      return this.options.send(`${path}/gestures`, { revision, operation, seen, goes_on });
    }
    const to = job.kind === "to" ? job.at : history.at + job.by;
    return this.options.send(`${path}/history`, { revision, to, seen });
  }

  /** True when the job is settled; false when it has to be tried again. */
  private async attempt(lane: Lane, job: Job): Promise<boolean> {
    const { history } = lane;
    if (job.kind === "step" && (job.by < 0 ? !history.undo : !history.redo)) return true;
    try {
      const outcome = await this.send(lane, job);
      lane.revision = outcome.revision;
      lane.history = outcome.history;
      const { painted } = await this.options.accept(lane.id, outcome);
      if (job.kind === "gesture") job.done?.(outcome, painted);
      return true;
    } catch (error) {
      if (!(error instanceof ApiError)) throw error;
      // No line, or the studio is busy or restarting: the same again later. An error of its own (500)
      // would only come again.
      if (error.status === 0 || error.status > 500) return false;
      if (error.status === 409) {
        if (!(await this.caughtUp(lane))) return false;
        this.options.say(lane.id, "notice", error.message);
        // What only adds something fits on any state; the rest would act on what has changed.
        if (job.kind === "gesture" && job.operation.op.startsWith("add_")) return false;
      } else this.options.say(lane.id, "problem", error.message);
      if (job.kind === "gesture") job.done?.(null, Promise.resolve());
      return true;
    }
  }

  private async caughtUp(lane: Lane): Promise<boolean> {
    try {
      const desk = await this.options.refresh(lane.id);
      lane.revision = desk.portrait.revision;
      lane.history = desk.history;
      return true;
    } catch {
      return false;
    }
  }
}
