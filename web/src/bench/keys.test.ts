import { afterEach, describe, expect, it } from "vitest";
import { hint, keyFor, keyLabel, KEYS, rebind, takenBy, usualKeys } from "./keys";

const press = (key: string, more: KeyboardEventInit = {}) =>
  keyFor(new KeyboardEvent("keydown", { key, ...more }))?.action;

describe("keys", () => {
  it("gives every key to one action only", () => {
    const all = KEYS.flatMap((k) => k.keys);
    expect(new Set(all).size).toBe(all.length);
  });

  it("finds actions as keyboards send them", () => {
    expect(press("q")).toBe("original");
    expect(press("Q", { shiftKey: true })).toBe("original");
    expect(press("z", { ctrlKey: true })).toBe("undo");
    expect(press("Z", { ctrlKey: true, shiftKey: true })).toBe("redo");
    expect(press("z", { metaKey: true })).toBe("undo");
    expect(press("z")).toBe("back");
    expect(press(";")).toBeUndefined();
    expect(press("{", { shiftKey: true })).toBe("harder");
    expect(press("?", { shiftKey: true })).toBe("help");
    expect(press("Delete")).toBe("remove");
    expect(press("q", { ctrlKey: true })).toBeUndefined();
  });

  it("names keys for tooltips", () => {
    expect(hint("undo")).toBe("Undo (Ctrl + Z)");
    expect(keyLabel(" ")).toBe("Space");
    expect(keyLabel("+")).toBe("+");
  });
});

describe("keys of the user's own", () => {
  afterEach(() => rebind({}));

  it("take the place of the usual ones", () => {
    rebind({ heal: ["y"] });
    expect(press("y")).toBe("heal");
    expect(press("h")).toBeUndefined();
    expect(hint("heal")).toBe("Heal (Y)");
    expect(usualKeys("heal")).toEqual(["h"]);
    rebind({});
    expect(press("h")).toBe("heal");
  });

  it("that are taken are found", () => {
    expect(takenBy("q", "heal")?.action).toBe("original");
    expect(takenBy("h", "heal")).toBeUndefined();
    rebind({ original: ["y"] });
    expect(takenBy("q", "heal")).toBeUndefined();
    expect(takenBy("y", "heal")?.action).toBe("original");
  });
});
