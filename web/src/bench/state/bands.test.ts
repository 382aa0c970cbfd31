import { beforeEach, describe, expect, it } from "vitest";
import type { Kind, Pass } from "../../api/client";
import { bandSettings, fits, passFor, touchesIn } from "./bands";
import { useBench } from "./bench";
import { useHand } from "./hand";
import { keepKinds } from "./kinds";

const touch = { id: "t", path: [[1, 1]], values: {}, source: null, spare: [], enabled: true, pressure: [] };
const pass = (id: string, kind: string, band: string, touches = 0): Pass =>
  ({
    id,
    kind,
    name: id,
    settings: { band },
    enabled: true,
    stage_on: true,
    touches: Array.from({ length: touches }, () => touch),
  }) as unknown as Pass;

describe("the band in which the hand works", () => {
  const kind = (name: string, ...settings: string[]) => ({ name, settings: settings.map((s) => ({ name: s })) });
  beforeEach(() => {
    useHand.setState({ band: "all", divide: 1.5 });
    keepKinds([
      kind("heal", "keep_edges", "band", "divide_mm"),
      kind("clone", "band", "divide_mm"),
      kind("blend", "divide_mm"),
      kind("fill"),
    ] as unknown as Kind[]);
  });

  it("only passes of the same band take its touches", () => {
    useBench.setState({ passes: [pass("a", "heal", "all"), pass("b", "heal", "pores")], openPass: "a" });
    expect(passFor("heal")).toBe("a");
    expect(passFor("clone")).toBeNull();
    useHand.setState({ band: "pores" });
    expect(passFor("heal")).toBeNull();
    useBench.setState({ openPass: "b" });
    expect(passFor("heal")).toBe("b");
  });

  it("names the band and the sizes for a new pass", () => {
    expect(bandSettings("heal")).toBeNull();
    useHand.setState({ band: "tone" });
    expect(bandSettings("heal")).toMatchObject({ band: "tone", divide_mm: 1.5 });
    expect(bandSettings("fill")).toBeNull();
    expect(bandSettings("blend")).not.toHaveProperty("band");
  });

  it("kinds without bands fit in any", () => {
    expect(fits(pass("a", "fill", "all"), "fill", "pores")).toBe(true);
  });

  it("counts the touches of each", () => {
    const counts = touchesIn([pass("a", "heal", "all", 2), pass("b", "clone", "pores", 3), pass("c", "blend", "x", 1)]);
    expect(counts).toEqual({ all: 2, pores: 3, tone: 1 });
  });
});
