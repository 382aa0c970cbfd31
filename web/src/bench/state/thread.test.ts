import { describe, expect, it } from "vitest";
import type { Take } from "../../api/client";
import { bundled, hangsAt, placed, type Step } from "./thread";

const step = (number: number, label: string): Step => ({ number, label, region: [], created_at: `2026-11-29T10:00:${String(number).padStart(2, "0")}Z` });
const STEPS = ["Heal", "Dodge", "Dodge", "Dodge", "Heal"].map((label, n) => step(n + 1, label));

describe("the thread", () => {
  it("folds equal steps in a row, and unfolds those that are opened", () => {
    expect(bundled(STEPS).map((b) => [b.last.label, b.steps.length])).toEqual([["Heal", 1], ["Dodge", 3], ["Heal", 1]]);
    expect(bundled(STEPS)[1]!.last.number).toBe(4);
    expect(bundled(STEPS, new Set([2])).map((b) => b.steps.length)).toEqual([1, 1, 1, 1, 1]);
  });
  it("hangs takes where they were made", () => {
    const take = (second: number, step: number | null = null) => ({ id: "t", name: "t", step, created_at: `2026-11-29T10:00:${String(second).padStart(2, "0")}Z` }) as Take;
    const bundles = bundled(STEPS);
    expect([0, 1, 3, 9].map((s) => hangsAt(take(s), bundles))).toEqual([-1, 0, 1, 2]);
    // Made after going back; and at a step that isn't this one any more.
    expect([hangsAt(take(9, 1), bundles), hangsAt(take(9, 0), bundles), hangsAt(take(2, 5), bundles)]).toEqual([0, -1, 1]);
  });
  it("lays takes below their step, and side by side where no step follows", () => {
    expect(placed([-1, -1, 2, 2, 0], 3)).toEqual([[1, 2], [1, 3], [4, 2], [5, 2], [2, 2]]);
    expect(placed([-1, -1], 0)).toEqual([[1, 2], [2, 2]]);
  });
});
