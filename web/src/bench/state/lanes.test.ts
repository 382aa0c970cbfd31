import { beforeEach, describe, expect, it, vi } from "vitest";
import { ApiError, type Operation, type Outcome } from "../../api/client";
import { Lanes, type Job, type Options } from "./lanes";

const HISTORY = { at: 0, count: 0, undo: null, redo: null };
const STATE = { revision: 0, history: HISTORY };
const heal: Operation = { op: "add_touch", kind: "heal", touch: { path: [[1, 1]] } };
const rename: Operation = { op: "change_pass", id: "p", name: "x" };

interface Sent {
  path: string;
  body: { revision: number; operation?: Operation; to?: number; goes_on?: boolean };
  answer: (outcome: Partial<Outcome>) => void;
  refuse: (status: number) => void;
}

describe("gestures on their way", () => {
  let sent: Sent[];
  let accepted: [string, number][];
  let said: string[];
  let statuses: string[];
  let lanes: Lanes;

  beforeEach(() => {
    [sent, accepted, said, statuses] = [[], [], [], []];
    const options: Options = {
      retryMs: 5,
      send: (path, body) =>
        new Promise((resolve, reject) =>
          sent.push({
            path,
            body: body as Sent["body"],
            answer: (o) => resolve({ history: HISTORY, ...o } as Outcome),
            refuse: (status) => reject(new ApiError(status, "no", `refused with ${status}`)),
          }),
        ),
      accept: (id, outcome) => {
        accepted.push([id, outcome.revision]);
        return Promise.resolve({ painted: Promise.resolve() });
      },
      refresh: () => Promise.resolve({ portrait: { revision: 9 }, history: HISTORY } as never),
      seen: () => null,
      status: (id, saving, waiting) => void statuses.push(`${id} ${saving} ${waiting}`),
      say: (_, kind, text) => void said.push(`${kind}: ${text}`),
    };
    lanes = new Lanes(options);
  });
  const gesture = (operation: Operation, more: Partial<Extract<Job, { kind: "gesture" }>> = {}): Job => ({
    kind: "gesture",
    operation,
    goesOn: false,
    ...more,
  });
  const settled = () => vi.waitFor(() => expect(lanes.busy()).toBe(false));
  const count = (n: number) => vi.waitFor(() => expect(sent).toHaveLength(n));

  it("go one after the other, each on the revision that the one before made", async () => {
    lanes.push("a", gesture(heal), STATE);
    lanes.push("a", gesture(rename, { goesOn: true }), STATE);
    expect(sent).toHaveLength(1);
    sent[0]!.answer({ revision: 4 });
    await count(2);
    expect(sent[1]!.body).toMatchObject({ revision: 4, goes_on: true });
    sent[1]!.answer({ revision: 5 });
    await settled();
    expect(accepted).toEqual([["a", 4], ["a", 5]]);
    expect(statuses.at(-1)).toBe("a saved 0");
  });

  it("go on with the one before by the hand's pauses, however late the answers come", async () => {
    let now = 50;
    vi.spyOn(performance, "now").mockImplementation(() => now);
    const press = (at: number) => ((now = at), lanes.push("a", gesture(rename, { goesOn: true }), STATE));
    for (const at of [100, 1900, 3800, 6000]) press(at);
    now = 60_000;
    for (let n = 0; n < 4; n++) {
      await count(n + 1);
      sent[n]!.answer({ revision: n + 1 });
    }
    await settled();
    expect(sent.map((s) => s.body.goes_on)).toEqual([false, true, true, false]);
    vi.restoreAllMocks();
  });

  it("of a portrait that was left are still saved, on its own revision", async () => {
    lanes.push("a", gesture(heal), { ...STATE, revision: 7 });
    lanes.push("a", gesture(rename), STATE);
    lanes.push("b", gesture(heal), { ...STATE, revision: 2 });
    expect(sent.map((s) => [s.path, s.body.revision])).toEqual([
      ["/api/portraits/a/gestures", 7],
      ["/api/portraits/b/gestures", 2],
    ]);
    sent[0]!.answer({ revision: 8 });
    await count(3);
    expect([sent[2]!.path, sent[2]!.body.revision]).toEqual(["/api/portraits/a/gestures", 8]);
    sent[1]!.answer({ revision: 3 });
    sent[2]!.answer({ revision: 9 });
    await settled();
  });

  it("are waited for before their portrait is opened again", async () => {
    let idle = false;
    lanes.push("a", gesture(heal), STATE);
    void lanes.idle("a").then(() => (idle = true));
    await lanes.idle("b");
    expect(idle).toBe(false);
    sent[0]!.answer({ revision: 1 });
    await vi.waitFor(() => expect(idle).toBe(true));
  });

  it("that only add something are sent again on a newer state; others are told off", async () => {
    const done = vi.fn();
    lanes.push("a", gesture(heal), STATE);
    sent[0]!.refuse(409);
    await count(2);
    expect(sent[1]!.body.revision).toBe(9);
    sent[1]!.answer({ revision: 10 });
    await settled();
    lanes.push("a", gesture(rename, { done }), { ...STATE, revision: 10 });
    await count(3);
    sent[2]!.refuse(409);
    await settled();
    expect(sent).toHaveLength(3);
    expect(done).toHaveBeenCalledWith(null, expect.anything());
  });

  it("are tried again while nobody can be reached, and refused ones are not", async () => {
    lanes.push("a", gesture(heal), STATE);
    sent[0]!.refuse(0);
    await count(2);
    sent[1]!.refuse(0);
    await vi.waitFor(() => expect(statuses).toContain("a offline 1"));
    await count(3);
    sent[2]!.refuse(422);
    await settled();
    expect(said).toContain("problem: refused with 422");
  });

  it("step in the history only where there is a step", async () => {
    lanes.push("a", { kind: "step", by: -1 }, STATE);
    await settled();
    expect(sent).toHaveLength(0);
    lanes.push("a", { kind: "step", by: -1 }, { revision: 3, history: { at: 2, count: 2, undo: "Heal", redo: null } });
    expect(sent[0]!.body).toMatchObject({ revision: 3, to: 1 });
    sent[0]!.answer({ revision: 4 });
    await settled();
  });
});
