import { describe, expect, it } from "vitest";
import type { Change, Pass } from "../../api/client";
import { applyChanges, extent, findTouch } from "./model";

const touch = (id: string) => ({ id, path: [[10, 20]], values: { radius_px: 5 }, source: [3, 4] });
const pass = (id: string, touches: ReturnType<typeof touch>[] = []) =>
  ({
    id,
    kind: "heal",
    name: id,
    settings: {},
    mask: { areas: [], invert: false, grow_px: 0, feather_px: 0 },
    strokes: 0,
    strength: 100,
    blend: "normal",
    enabled: true,
    stage_on: true,
    touches,
  }) as unknown as Pass;
const change = (part: object) => part as Change;

describe("applying changes", () => {
  it("adds a pass and its touch", () => {
    const out = applyChanges(
      [pass("a")],
      [
        change({ what: "pass", id: "b", pass_id: "b", index: 0, before: null, after: pass("b") }),
        change({ what: "touch", id: "t", pass_id: "b", index: 0, before: null, after: touch("t") }),
      ],
    );
    expect(out.map((p) => p.id)).toEqual(["b", "a"]);
    expect(out[0]!.touches.map((t) => t.id)).toEqual(["t"]);
  });

  it("counts the strokes of a mask, forwards and back, and keeps them when the pass changes", () => {
    const strokes = (index: number, count: number) =>
      change({ what: "strokes", id: "a", pass_id: "a", index, before: [], after: Array(count).fill({}) });
    let out = applyChanges([pass("a")], [strokes(0, 1)]);
    out = applyChanges(out, [strokes(1, 2)]);
    expect(out[0]!.strokes).toBe(3);
    out = applyChanges(out, [change({ what: "pass", id: "a", pass_id: "a", index: 0, before: out[0], after: { ...pass("a"), strokes: undefined } })]);
    expect(out[0]!.strokes).toBe(3);
    expect(applyChanges(out, [strokes(1, 0)])[0]!.strokes).toBe(1);
  });

  it("keeps the touches of a pass that changes or moves", () => {
    const before = [pass("a", [touch("t")]), pass("b")];
    const after = { ...pass("a"), name: "new" };
    const out = applyChanges(before, [
      change({ what: "pass", id: "a", pass_id: "a", index: 1, before: before[0], after }),
    ]);
    expect(out.map((p) => [p.id, p.name, p.touches.length])).toEqual([
      ["b", "b", 0],
      ["a", "new", 1],
    ]);
    expect(before[0]!.name).toBe("a");
  });

  it("puts a touch back where it was and takes one away", () => {
    const before = [pass("a", [touch("1"), touch("3")])];
    const back = applyChanges(before, [
      change({ what: "touch", id: "2", pass_id: "a", index: 1, before: null, after: touch("2") }),
    ]);
    expect(back[0]!.touches.map((t) => t.id)).toEqual(["1", "2", "3"]);
    const gone = applyChanges(back, [
      change({ what: "touch", id: "1", pass_id: "a", index: 0, before: touch("1"), after: null }),
    ]);
    expect(gone[0]!.touches.map((t) => t.id)).toEqual(["2", "3"]);
    expect(findTouch(gone, "3")?.pass.id).toBe("a");
    expect(findTouch(gone, "1")).toBeNull();
  });

  it("knows what a touch covers", () => {
    expect(extent(touch("t") as never)).toEqual([3, 13, 17, 27]);
  });
});
