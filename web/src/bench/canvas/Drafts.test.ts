import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Operation } from "../../api/client";
import { Drafts, halved } from "./Drafts";
import type { Grid } from "./viewport";

const GRID: Grid = { x: 0, y: 0, scale: 1, width: 801, height: 600 };
const moved = (v: number): Operation => ({ op: "change_pass", id: "p", strength: v });

describe("what isn't saved yet", () => {
  let asked: { grid: Grid; strength: number | null | undefined; give: (ok?: boolean) => void }[];
  let shown: Grid[];
  let closed: number;
  let drafts: Drafts;

  beforeEach(() => {
    [asked, shown, closed] = [[], [], 0];
    const bitmap = () => ({ close: () => (closed += 1) }) as unknown as ImageBitmap;
    drafts = new Drafts({
      gridOf: () => GRID,
      fetch: (grid, [op]) =>
        new Promise((resolve) =>
          asked.push({
            grid,
            strength: op?.op === "change_pass" ? op.strength : null,
            give: (ok = true) => resolve(ok ? bitmap() : null),
          }),
        ),
      show: (_, grid) => void shown.push(grid),
    });
  });
  const count = (n: number) => vi.waitFor(() => expect(asked).toHaveLength(n));

  it("is asked for one at a time, and only the newest then", async () => {
    for (const v of [10, 20, 30]) drafts.want([moved(v)], null);
    expect(asked.map((a) => a.strength)).toEqual([10]);
    asked[0]!.give();
    await count(2);
    expect(asked[1]!.strength).toBe(30);
    asked[1]!.give();
    await vi.waitFor(() => expect(shown).toHaveLength(2));
    expect(asked).toHaveLength(2);
  });

  it("isn't shown any more once it has ended, and its pixels are let go", async () => {
    drafts.want([moved(10)], null);
    drafts.end();
    asked[0]!.give();
    await vi.waitFor(() => expect(closed).toBe(1));
    expect(shown).toHaveLength(0);
  });

  it("that fails makes room for the next", async () => {
    drafts.want([moved(10)], null);
    drafts.want([moved(20)], null);
    asked[0]!.give(false);
    await count(2);
    asked[1]!.give();
    await vi.waitFor(() => expect(shown).toHaveLength(1));
  });

  it("comes with half as many pixels across where full ones are slow, and in full at rest", async () => {
    vi.useFakeTimers({ toFake: ["performance", "setTimeout", "clearTimeout"] });
    drafts.want([moved(10)], null);
    vi.advanceTimersByTime(300);
    asked[0]!.give();
    await vi.advanceTimersByTimeAsync(0);
    drafts.want([moved(20)], null);
    expect(asked[1]!.grid).toEqual(halved(GRID));
    expect(asked[1]!.grid).toMatchObject({ scale: 0.5, width: 401, height: 300 });
    asked[1]!.give();
    await vi.advanceTimersByTimeAsync(200);
    expect(asked[2]!.grid).toEqual(GRID);
    vi.useRealTimers();
  });

  it("isn't asked for any more once the hand has let go, until it moves again", async () => {
    vi.useFakeTimers({ toFake: ["performance", "setTimeout", "clearTimeout"] });
    drafts.want([moved(10)], null);
    vi.advanceTimersByTime(300);
    asked[0]!.give();
    await vi.advanceTimersByTimeAsync(0);
    for (const v of [20, 30]) drafts.want([moved(v)], null);
    drafts.rest();
    asked[1]!.give();
    await vi.advanceTimersByTimeAsync(500);
    expect(asked).toHaveLength(2);
    expect(shown).toHaveLength(2);
    drafts.want([moved(40)], null);
    expect(asked[2]!.strength).toBe(40);
    vi.useRealTimers();
  });
});
