/** What a client's page asks its part of the API, and nothing else. */
import type { components } from "../api/schema";

export type Showing = components["schemas"]["ShowingOut"];
export type Shown = components["schemas"]["ShownOut"];
export type ClientPin = components["schemas"]["PinOut"];
export type Kind = ClientPin["kind"];
export type Side = "result" | "original";

export const MOST_WORDS = 500;

/** The token in the page's address. */
export function tokenOf(path: string): string {
  return /^\/showing\/([^/]+)/.exec(path)?.[1] ?? "";
}

/** Ask; throws an Error whose message is a sentence. */
export async function ask<T>(token: string, what: string, method = "GET", body?: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api/showing/${token}${what}`, {
      method,
      ...(body !== undefined && { body: JSON.stringify(body), headers: { "Content-Type": "application/json" } }),
    });
  } catch {
    throw new Error("There is no connection just now. Try again in a moment.");
  }
  const answer: unknown = response.status === 204 ? null : await response.json().catch(() => undefined);
  if (response.ok && answer !== undefined) return answer as T;
  throw new Error((answer as { message?: string } | undefined)?.message ?? "That didn't work. Try again.");
}

export function addressOf(token: string, shown: Shown, side: Side, size: "screen" | "large"): string {
  return `/api/showing/${token}/${shown.number}/${side}/${size}?v=${shown.version}`;
}

/** Widths of both sizes, for a browser to choose from. */
export function sizesOf(token: string, shown: Shown, side: Side): string {
  const screen = Math.round(shown.width * Math.min(1, 1200 / Math.max(shown.width, shown.height)));
  return `${addressOf(token, shown, side, "screen")} ${screen}w, ${addressOf(token, shown, side, "large")} ${shown.width}w`;
}

/** What is left to say, in words. */
export function leftToSay(pictures: readonly Shown[]): string {
  const open = pictures.filter((p) => p.verdict === "").length;
  if (open === 0) return "";
  if (pictures.length === 1) return "Say whether the picture is fine.";
  return open === pictures.length ? "Say of each picture whether it is fine." : `${open} of ${pictures.length} pictures are left to look at.`;
}

/** A step of the cross that sets pins by keys, kept inside the picture (parts of its size). */
export function stepped([x, y]: readonly [number, number], key: string, large: boolean): [number, number] | null {
  const by = large ? 0.1 : 0.02;
  const moves: Record<string, [number, number]> = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] };
  const move = moves[key];
  if (!move) return null;
  const inside = (v: number) => Math.min(Math.max(v, 0), 1);
  return [inside(x + move[0]), inside(y + move[1])];
}
