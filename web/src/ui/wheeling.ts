/** Where a turn of the wheel began: one that scrolls a panel goes on scrolling, whatever comes under the pointer. */

/** Longer without a step is another turn. */
const PAUSE_MS = 300;
/** A pointer moved by more pixels means what it is over now. */
const MOVED = 6;

const turn = { on: null as EventTarget | null, at: -Infinity, x: 0, y: 0 };

document.addEventListener(
  "wheel",
  (event) => {
    const moved = Math.hypot(event.clientX - turn.x, event.clientY - turn.y) > MOVED;
    if (moved || event.timeStamp - turn.at > PAUSE_MS) Object.assign(turn, { on: event.target, x: event.clientX, y: event.clientY });
    turn.at = event.timeStamp;
  },
  { capture: true, passive: true },
);

/** Whether the turn of the wheel that goes on now began over an element. */
export function beganOver(element: Element): boolean {
  return turn.on instanceof Node && element.contains(turn.on);
}
