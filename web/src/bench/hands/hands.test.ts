import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Operation, Pass, Point } from "../../api/client";
import { useBench } from "../state/bench";
import { useHand } from "../state/hand";
import { useOutline } from "../state/outline";
import { useView } from "../state/view";
import { useDrawn } from "./drawn";
import { dragged, grab } from "./grab";
import type { At, Gesture } from "./hand";
import { HANDS, IN_TRAY, takeHand } from ".";

const at = (x: number, y: number, more: Partial<At> = {}): At => ({
  at: [x, y],
  screen: [x, y],
  pressure: null,
  alt: false,
  last: false,
  ...more,
});

/** Press at the first place, move over the others, let go at the last. */
function drive(begin: (first: At) => Gesture, places: Point[], more: Partial<At> = {}) {
  const [first, ...rest] = places;
  const gesture = begin(at(...first!, more));
  gesture.next();
  for (const place of rest) gesture.next(at(...place, more));
  return gesture.next(at(...places.at(-1)!, { ...more, last: true }));
}

describe("hands", () => {
  let made: Operation[];
  const painter = { showDraft: vi.fn(), endDraft: vi.fn() };

  beforeEach(() => {
    made = [];
    vi.clearAllMocks();
    useBench.setState({ passes: [], openPass: null, also: [], notice: null, gesture: (op) => void made.push(op) });
    useHand.setState({ mode: "heal", radius: 10, softness: 20, opacity: 100, flow: 50, chosen: null, pressure: true, fillBy: "brush" });
    useOutline.setState({ form: "freehand", nodes: [], closed: false, sparing: false, spares: [], shift: null });
    useDrawn.setState({ path: null, traces: [], held: null });
    useView.setState({ view: { scale: 1, x: 0, y: 0 } });
  });
  const use = (name: keyof typeof HANDS, places: Point[], more: Partial<At> = {}) => {
    useHand.setState({ mode: name });
    return drive((first) => HANDS[name].gesture(first, { painter }), places, more);
  };

  it("each say what they are, and those of the tray come in the order of the work", () => {
    for (const [name, hand] of Object.entries(HANDS)) {
      expect(hand.name).toBe(name);
      expect(hand.how.length).toBeGreaterThan(8);
    }
    expect(IN_TRAY.map((h) => h.name)).toEqual(["heal", "clone", "patch", "fill", "blend", "dodge_burn", "ease"]);
  });

  it("heal a stroke, whose points too close together add nothing", () => {
    expect(use("heal", [[5, 5], [5.3, 5], [40, 5.123]]).done).toBe(true);
    expect(made).toHaveLength(1);
    expect(made[0]).toMatchObject({
      op: "add_touch",
      kind: "heal",
      touch: { path: [[5, 5], [40, 5.12]], values: { radius_px: 10, softness: 20, opacity: 100 }, source: null },
    });
    expect(useDrawn.getState().traces).toHaveLength(1);
  });

  it("paint smaller and weaker with a pen pressed lightly", () => {
    use("clone", [[5, 5], [30, 5]], { pressure: 0.4 });
    expect(made[0]).toMatchObject({ touch: { values: { radius_px: 4, opacity: 40, flow: 50 } } });
  });

  it("take from a chosen place, and go on from there", () => {
    useHand.setState({ chosen: { x: 100, y: 50, offset: null }, aligned: true });
    use("clone", [[20, 10]]);
    use("clone", [[30, 10]]);
    expect(made.map((op) => op.op === "add_touch" && op.touch.source)).toEqual([[80, 40], [80, 40]]);
  });

  it("take back what they drew when they are let go of early", () => {
    const gesture = HANDS.heal.gesture(at(5, 5), { painter });
    gesture.next();
    gesture.next(at(30, 5));
    expect(useDrawn.getState().traces).toHaveLength(1);
    gesture.return();
    expect(useDrawn.getState().traces).toHaveLength(0);
    expect(made).toHaveLength(0);
  });

  it("ease only an open pass", () => {
    use("ease", [[5, 5]]);
    expect(made).toHaveLength(0);
    expect(useBench.getState().notice).toContain("Open the pass");
    useBench.setState({ openPass: "p" });
    useHand.setState({ reveal: true });
    use("ease", [[5, 5]]);
    expect(made[0]).toMatchObject({ op: "paint_mask", pass_id: "p", stroke: { reveal: true, flow: 50 }, whole_set: false });
  });

  it("patch an outline that is dragged, and show it meanwhile", () => {
    const box: Point[] = [[10, 10], [60, 10], [60, 50], [10, 50]];
    use("patch", box);
    expect(useOutline.getState().closed).toBe(true);
    expect(made).toHaveLength(0);
    use("patch", [[30, 30], [80, 42]]);
    expect(painter.showDraft).toHaveBeenCalled();
    expect(made[0]).toMatchObject({ kind: "patch", touch: { source: [50, 12] } });
    expect(useOutline.getState().shift).toBeNull();
  });

  it("fill by outline, and keep spared places for the next fills", () => {
    useHand.setState({ fillBy: "outline" });
    useOutline.setState({ sparing: true });
    const box: Point[] = [[10, 10], [60, 10], [60, 50], [10, 50]];
    use("fill", box);
    expect(made).toHaveLength(0);
    expect(useOutline.getState().spares).toHaveLength(1);
    use("fill", box);
    expect(made[0]).toMatchObject({ kind: "fill", touch: { values: { shape: "outline" } } });
    expect(made[0]!.op === "add_touch" && made[0]!.touch.spare).toHaveLength(1);
  });

  it("limit the open pass by a gradient, within what is there already", () => {
    const areas = [{ kind: "zone", zone: "nose" }];
    useBench.setState({ passes: [{ id: "p", mask: { areas } } as unknown as Pass], openPass: "p" });
    use("gradient", [[0, 0], [2, 0]]);
    expect(made).toHaveLength(0);
    use("gradient", [[0, 0], [80, 0]]);
    expect(made[0]).toMatchObject({ op: "set_mask", areas: [areas[0], { kind: "gradient", way: "cross", end: [80, 0] }] });
    expect(useHand.getState().mode).toBe("heal");
  });

  it("do the other of two when their key comes again", () => {
    takeHand("dodge_burn");
    expect(useHand.getState()).toMatchObject({ mode: "dodge_burn", light: "dodge" });
    takeHand("dodge_burn");
    expect(useHand.getState().light).toBe("burn");
    takeHand("ease");
    takeHand("ease");
    expect(useHand.getState()).toMatchObject({ mode: "ease", reveal: true });
    takeHand("heal");
    takeHand("ease");
    expect(useHand.getState().reveal).toBe(false);
  });

  const touch = { id: "t", path: [[10, 10]] as Point[], values: { radius_px: 8 }, source: [30, 0] as Point, spare: [], enabled: true, pressure: [] };

  it("move a touch, its source, or its rim", () => {
    expect(dragged(touch, "move", [0, 0], [5, 6]).path).toEqual([[15, 16]]);
    expect(dragged(touch, "source", [0, 0], [5.4, 6]).source).toEqual([35, 6]);
    expect(dragged(touch, "size", [0, 0], [10, 31.3]).values["radius_px"]).toBe(21.5);
  });

  it("save a drag as one gesture, with the others that are picked", () => {
    const run = (to: Point) => drive((first) => grab("move", touch, first, { painter }), [[10, 10], to]);
    run([10, 10]);
    expect(made).toHaveLength(0);
    expect(painter.endDraft).toHaveBeenCalled();
    run([14, 10]);
    useBench.setState({ also: ["u"] });
    run([14, 10]);
    expect(made).toMatchObject([
      { op: "change_touch", id: "t", path: [[14, 10]] },
      { op: "change_touches", ids: ["t", "u"], shift: [4, 0] },
    ]);
  });
});
