import { beforeEach, describe, expect, it } from "vitest";
import type { Pass } from "../../api/client";
import { choices, fromKey, keyOf, ORIGINAL, RESULT, stillThere, useCompare } from "./compare";
import { useHand } from "./hand";
import { bandShown, proposedDivide, seeBothParts, showBand } from "./seeing";

const pass = (id: string) => ({ id, name: id.toUpperCase() }) as unknown as Pass;

describe("what can be shown", () => {
  it("is named so that it can be found again", () => {
    for (const show of [ORIGINAL, { show: "take", of: "a:b" } as const, { show: "band", of: "tone" } as const])
      expect(fromKey(keyOf(show))).toEqual(show);
  });

  it("depends on the open pass and the takes", () => {
    const keys = (open: string | null, takes = 0) =>
      choices([pass("a"), pass("b")], open, Array.from({ length: takes }, (_, n) => ({ id: `t${n}`, name: "T" }))).map((c) => c.key);
    expect(keys("b")).toContain("without:b");
    expect(keys("b")).not.toContain("without:a");
    expect(keys(null).some((k) => k.startsWith("mask"))).toBe(false);
    expect(keys(null, 2)).toEqual(expect.arrayContaining(["original", "take:t0", "take:t1", "band:detail", "change"]));
  });

  it("goes with the pass that it shows", () => {
    expect(stillThere({ show: "mask", of: "a" }, [pass("a")])).toBe(true);
    expect(stillThere({ show: "mask", of: "a" }, [pass("b")])).toBe(false);
    expect(stillThere({ show: "band", of: "tone" }, [])).toBe(true);
  });
});

describe("bands", () => {
  beforeEach(() => {
    useCompare.setState({ mode: "off", against: ORIGINAL, instead: RESULT, inGlass: ORIGINAL });
    useHand.setState({ band: "pores", glass: false });
  });
  const now = () => {
    const { instead, inGlass } = useCompare.getState();
    return bandShown(useHand.getState().band, instead, inGlass, useHand.getState().glass);
  };

  it("are shown as the picture, in the Glass, or not", () => {
    for (const how of ["whole", "glass", "off"] as const) {
      showBand("pores", how);
      expect(now()).toBe(how);
    }
  });

  it("both parts are seen side by side, and put away again", () => {
    seeBothParts();
    expect(useCompare.getState()).toMatchObject({ mode: "side", instead: { of: "tone" }, against: { of: "detail" } });
    seeBothParts();
    expect(useCompare.getState()).toMatchObject({ mode: "off", instead: RESULT });
  });

  it("divide where practice does: about 5.6 px of radius on a close-up, 1.5 to 2 on a full figure", () => {
    const radius = (scale: number) => (proposedDivide(scale) * scale) / 2;
    expect(radius(16)).toBeGreaterThan(5);
    expect(radius(16)).toBeLessThan(6.5);
    expect(radius(60)).toBeLessThanOrEqual(10.5);
    expect(radius(2)).toBeGreaterThanOrEqual(1);
    expect(radius(2)).toBeLessThanOrEqual(2);
  });
});
