/** Arrow keys on the wall: from portrait to portrait as they lie, without the buttons between. */
import type { KeyboardEvent } from "react";

/** Which tile a key leads to from one of them; ``tops`` is where each begins, down the page. */
export function tileAfter(key: string, from: number, tops: readonly number[]): number | null {
  // Tiles of a row begin at the same height.
  const row = tops.filter((top) => top === tops[from]).length;
  const across = Math.max(tops.filter((top) => top === tops[0]).length, row);
  const to = { ArrowRight: from + 1, ArrowLeft: from - 1, ArrowDown: from + across, ArrowUp: from - across, Home: 0, End: tops.length - 1 }[key];
  if (to === undefined) return null;
  // Below a place that the last row doesn't have lies its last tile.
  const last = tops.length - 1;
  if (key === "ArrowDown" && to > last) return tops[last]! > tops[from]! ? last : null;
  return to < 0 || to > last || to === from ? null : to;
}

/** For a list of tiles: moves the focus between their links, and lets Space pick the one it is on. */
export function tileKeys(event: KeyboardEvent<HTMLElement>) {
  const link = (event.target as HTMLElement).closest<HTMLElement>("[data-tile]");
  if (!link || event.altKey || event.ctrlKey || event.metaKey) return;
  if (event.key === " ") {
    event.preventDefault();
    link.closest("li")?.querySelector<HTMLElement>("input[type=checkbox]")?.click();
    return;
  }
  const links = [...event.currentTarget.querySelectorAll<HTMLElement>("[data-tile]")];
  const to = tileAfter(event.key, links.indexOf(link), links.map((l) => Math.round(l.getBoundingClientRect().top)));
  if (to === null) return;
  event.preventDefault();
  links[to]!.focus();
}
