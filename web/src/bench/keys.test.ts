import { describe, expect, it } from "vitest";
import { hint, keyFor, keyLabel, KEYS } from "./keys";

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
    expect(press("z")).toBeUndefined();
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
