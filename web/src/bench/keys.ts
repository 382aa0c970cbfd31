/** The one table of keys: it defines them, names them in tooltips, and makes the help page. */

export type Action =
  | "original"
  | "pan"
  | "smaller"
  | "larger"
  | "harder"
  | "softer"
  | "fit"
  | "actual"
  | "zoomIn"
  | "zoomOut"
  | "glass"
  | "rings"
  | "undo"
  | "redo"
  | "unpick"
  | "remove"
  | "newSource"
  | "passSwitch"
  | "heal"
  | "clone"
  | "patch"
  | "fill"
  | "ease"
  | "blend"
  | "dodge_burn"
  | "band"
  | "form"
  | "confirm"
  | "duplicate"
  | "touchSwitch"
  | "again"
  | "otherSide"
  | "sweepOn"
  | "sweepBack"
  | "marks"
  | "zone"
  | "without"
  | "compare"
  | "back"
  | "maskShow"
  | "passUp"
  | "passDown"
  | "keepTake"
  | "thread"
  | "find"
  | "bare"
  | "help";

export interface Key {
  action: Action;
  /** `event.key` values, lower case; "mod+" stands for Ctrl or the command key. */
  keys: string[];
  /** Acts while held. */
  hold?: boolean;
  /** Goes on while the key repeats. */
  repeats?: boolean;
  group: "Look" | "Brush" | "Touches" | "History";
  text: string;
}

/** Keys of the user's own, by action. */
export type Bindings = Record<string, string[]>;

const USUAL: Key[] = [
  { action: "original", keys: ["q"], hold: true, group: "Look", text: "Show the original while held" },
  { action: "without", keys: ["w"], hold: true, group: "Look", text: "Show the picture without the open pass while held" },
  { action: "compare", keys: ["k"], group: "Look", text: "Compare: wipe, side by side, one above the other, flicker, off" },
  { action: "maskShow", keys: ["i"], group: "Look", text: "Show the open pass's mask: as a tint, in white, its effect, not" },
  { action: "back", keys: ["z"], group: "Look", text: "Between the whole picture and the last close-up" },
  { action: "glass", keys: ["g"], group: "Look", text: "The Glass on or off" },
  { action: "fit", keys: ["0"], group: "Look", text: "Fit the whole picture" },
  { action: "actual", keys: ["1"], group: "Look", text: "One to one" },
  { action: "zoomIn", keys: ["+", "="], repeats: true, group: "Look", text: "Zoom in" },
  { action: "zoomOut", keys: ["-"], repeats: true, group: "Look", text: "Zoom out" },
  { action: "pan", keys: [" "], hold: true, group: "Look", text: "Move the picture: hold and drag" },
  { action: "heal", keys: ["h"], group: "Brush", text: "Heal" },
  { action: "clone", keys: ["c"], group: "Brush", text: "Clone: a plain copy" },
  { action: "patch", keys: ["p"], group: "Brush", text: "Patch: outline, then drag onto clean skin" },
  { action: "fill", keys: ["f"], group: "Brush", text: "Fill: what should be behind; again: by brush or outline" },
  { action: "blend", keys: ["b"], group: "Brush", text: "Blend tone: mixes neighbouring tones under the brush" },
  { action: "dodge_burn", keys: ["a"], group: "Brush", text: "Dodge and burn; again: the other of both" },
  { action: "band", keys: ["d"], group: "Look", text: "Show the band of detail: not, as the picture, in the Glass" },
  { action: "ease", keys: ["x"], group: "Brush", text: "Ease what the open pass did; again: bring it back" },
  { action: "form", keys: ["s"], group: "Brush", text: "Form of outlines: freehand, polygon, curve, ellipse" },
  { action: "confirm", keys: ["enter"], group: "Brush", text: "Close the outline; find a source for a closed one" },
  { action: "smaller", keys: ["["], repeats: true, group: "Brush", text: "Smaller brush" },
  { action: "larger", keys: ["]"], repeats: true, group: "Brush", text: "Larger brush" },
  { action: "harder", keys: ["{", "shift+["], repeats: true, group: "Brush", text: "Harder edge" },
  { action: "softer", keys: ["}", "shift+]"], repeats: true, group: "Brush", text: "Softer edge" },
  { action: "rings", keys: ["r"], group: "Touches", text: "Rings: always, near the pointer, only the picked one, never" },
  { action: "newSource", keys: ["n"], group: "Touches", text: "Another source for the picked touch" },
  { action: "again", keys: ["t"], group: "Touches", text: "Another try of the picked fill" },
  { action: "duplicate", keys: ["mod+d"], group: "Touches", text: "Duplicate the picked touches" },
  { action: "touchSwitch", keys: ["o"], group: "Touches", text: "The picked touches on or off" },
  { action: "otherSide", keys: ["j"], group: "Touches", text: "Source of the picked touch from the mirrored side of the face" },
  { action: "remove", keys: ["delete", "backspace"], group: "Touches", text: "Delete the picked touches" },
  { action: "unpick", keys: ["escape"], group: "Touches", text: "Let go of the picked touch" },
  { action: "passSwitch", keys: ["e"], group: "Touches", text: "The open pass on or off" },
  { action: "passUp", keys: ["u"], group: "Touches", text: "The open pass one place up" },
  { action: "passDown", keys: ["l"], group: "Touches", text: "The open pass one place down" },
  { action: "keepTake", keys: ["mod+k"], group: "History", text: "Keep the present as a take" },
  { action: "thread", keys: ["'"], group: "History", text: "Open or close the thread" },
  { action: "undo", keys: ["mod+z"], repeats: true, group: "History", text: "Undo" },
  { action: "redo", keys: ["mod+shift+z", "mod+y"], repeats: true, group: "History", text: "Redo" },
  { action: "sweepOn", keys: ["."], group: "Look", text: "Sweep: begin, and on to the next place" },
  { action: "sweepBack", keys: [","], group: "Look", text: "Sweep: back to the place before" },
  { action: "marks", keys: ["m"], group: "Look", text: "Show or hide the marks" },
  { action: "zone", keys: ["v"], group: "Look", text: "Show the zone: not, as tint, white on black, in the Glass" },
  { action: "bare", keys: ["\\"], group: "Look", text: "Only the picture, or everything again" },
  { action: "find", keys: ["/"], group: "Look", text: "Find by saying what you need" },
  { action: "help", keys: ["?", "shift+?"], group: "Look", text: "This page" },
];

export let KEYS: Key[] = USUAL;

/** Put the user's own keys in place of the usual ones. */
export function rebind(own: Bindings) {
  KEYS = USUAL.map((k) => (own[k.action] ? { ...k, keys: own[k.action]! } : k));
}

export function usualKeys(action: Action): string[] {
  return USUAL.find((k) => k.action === action)!.keys;
}

/** The action that has a key already, other than one's own. */
export function takenBy(key: string, action: Action): Key | undefined {
  return KEYS.find((k) => k.action !== action && k.keys.includes(key));
}

/** What the pointer does besides the keys; shown on the help page. */
export const POINTER: { how: string; text: string }[] = [
  { how: "Click or drag", text: "Heal a spot, or along a stroke; clone, fill, ease likewise" },
  { how: "Ctrl + click a touch", text: "Pick it besides the others" },
  { how: "Alt + click", text: "Choose where heal and clone take from; Esc lets the studio propose again" },
  { how: "Wheel", text: "Zoom around the pointer; pinch on a touchpad" },
  { how: "Alt + wheel", text: "Size of the brush" },
  { how: "Double-click beside the picture, or with Space held", text: "Between fit and one to one" },
  { how: "Click a touch's middle", text: "Pick it: drag to move, its edge to resize, its source along the thread" },
  { how: "Without a pointer: Tab to the picture, then arrows", text: "A cross moves (Shift: far, Ctrl: one pixel); Enter is a click, Shift + Enter presses and lets go, Alt + Enter chooses a source" },
  { how: "Drag the Glass by its rim", text: "Move it; the knob on the rim resizes it" },
  { how: "On the wall: arrows, Home, End", text: "From portrait to portrait; Space picks it, Enter opens it" },
];

export function pressed(event: KeyboardEvent): string {
  const parts: string[] = [];
  if (event.ctrlKey || event.metaKey) parts.push("mod");
  if (event.shiftKey && event.key.length > 1) parts.push("shift");
  else if (event.shiftKey && (event.ctrlKey || event.metaKey)) parts.push("shift");
  parts.push(event.key.toLowerCase());
  return parts.join("+");
}

export function keyFor(event: KeyboardEvent): Key | undefined {
  const name = pressed(event);
  return KEYS.find((k) => k.keys.includes(name));
}

const NAMES: Record<string, string> = {
  arrowup: "↑",
  arrowdown: "↓",
  arrowleft: "←",
  arrowright: "→",
  " ": "Space",
  escape: "Esc",
  delete: "Delete",
  backspace: "Backspace",
  mod: "Ctrl",
  shift: "Shift",
};

export function keyLabel(key: string): string {
  if (key === " " || key === "+") return key === " " ? "Space" : "+";
  return key
    .split("+")
    .map((p) => NAMES[p] ?? (p === "" ? "+" : p.toUpperCase()))
    .join(" + ");
}

/** "Undo (Ctrl + Z)" for tooltips. */
export function hint(action: Action, text?: string): string {
  const key = KEYS.find((k) => k.action === action);
  return key ? `${text ?? key.text} (${keyLabel(key.keys[0]!)})` : (text ?? "");
}
