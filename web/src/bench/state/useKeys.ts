import { useEffect } from "react";
import { keyFor, KEYS, pressed, type Action } from "../keys";

function typing(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target instanceof HTMLInputElement) return !["range", "checkbox", "radio"].includes(target.type);
  return target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement;
}

const PRESSED = "button, a[href], summary, input[type=checkbox], input[type=radio]";

/** Enter and Space press what was reached by keys; what a click has left the focus on doesn't take them. */
function presses(event: KeyboardEvent): boolean {
  const on = event.target;
  const meant = event.key === "Enter" || event.key === " ";
  return meant && on instanceof HTMLElement && on.matches(PRESSED) && on.matches(":focus-visible");
}

/** Run actions by key while mounted; held keys end when released or when the window loses focus. */
export function useKeys(run: (action: Action, down: boolean) => void) {
  useEffect(() => {
    const held = new Set<Action>();
    const release = () => {
      for (const action of held) run(action, false);
      held.clear();
    };
    const onDown = (event: KeyboardEvent) => {
      const key = keyFor(event);
      if (!key || typing(event.target) || presses(event) || document.querySelector(".modal.show")) return;
      event.preventDefault();
      if (event.repeat && !key.repeats) return;
      if (key.hold) held.add(key.action);
      run(key.action, true);
    };
    const onUp = (event: KeyboardEvent) => {
      const name = pressed(event);
      for (const key of KEYS)
        if (key.hold && held.has(key.action) && (key.keys.includes(name) || key.keys.includes(event.key.toLowerCase()))) {
          held.delete(key.action);
          run(key.action, false);
        }
    };
    window.addEventListener("keydown", onDown);
    window.addEventListener("keyup", onUp);
    window.addEventListener("blur", release);
    return () => {
      release();
      window.removeEventListener("keydown", onDown);
      window.removeEventListener("keyup", onUp);
      window.removeEventListener("blur", release);
    };
  }, [run]);
}
