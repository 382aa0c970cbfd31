import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Action } from "../keys";
import { useKeys } from "./useKeys";

const done: [Action, boolean][] = [];
const run = (action: Action, down: boolean) => void done.push([action, down]);

function Bench() {
  useKeys(run);
  return (
    <>
      <div role="application" aria-label="Picture" tabIndex={0} />
      <input aria-label="Name" />
      <input type="range" aria-label="Strength" />
    </>
  );
}

const press = (on: Element, key: string, more: KeyboardEventInit = {}) => {
  const event = new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true, ...more });
  on.dispatchEvent(event);
  return event.defaultPrevented;
};
const lift = (on: Element, key: string) => on.dispatchEvent(new KeyboardEvent("keyup", { key, bubbles: true }));

describe("keys of the bench", () => {
  let root: Root;
  let page: HTMLElement;
  const find = (selector: string) => page.querySelector<HTMLElement>(selector)!;
  beforeEach(() => {
    done.length = 0;
    vi.stubGlobal("IS_REACT_ACT_ENVIRONMENT", true);
    page = document.body.appendChild(document.createElement("main"));
    root = createRoot(page);
    act(() => root.render(<Bench />));
  });
  afterEach(() => {
    act(() => root.unmount());
    page.remove();
    vi.unstubAllGlobals();
  });

  it("run an action once however long they are held, unless they repeat", () => {
    const picture = find("[role=application]");
    press(picture, "h");
    press(picture, "h", { repeat: true });
    press(picture, "]");
    press(picture, "]", { repeat: true });
    expect(done.map(([action]) => action)).toEqual(["heal", "larger", "larger"]);
  });

  it("that are held end when they are let go, or the window is left", () => {
    const picture = find("[role=application]");
    press(picture, "q");
    lift(picture, "q");
    expect(done).toEqual([["original", true], ["original", false]]);
    press(picture, "q");
    window.dispatchEvent(new Event("blur"));
    expect(done.at(-1)).toEqual(["original", false]);
    lift(picture, "q");
    expect(done).toHaveLength(4);
  });

  it("are letters where one writes, and keys again on a slider", () => {
    expect(press(find("[aria-label=Name]"), "h")).toBe(false);
    expect(done).toHaveLength(0);
    expect(press(find("[aria-label=Strength]"), "h")).toBe(true);
    expect(done).toEqual([["heal", true]]);
  });

  it("wait while a dialog is open", () => {
    const dialog = document.createElement("div");
    dialog.className = "modal show";
    document.body.append(dialog);
    press(find("[role=application]"), "h");
    dialog.remove();
    expect(done).toHaveLength(0);
  });
});
