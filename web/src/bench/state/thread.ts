/** The thread: the steps of the history along a line, equal ones in a row as one, takes where they were made. Pure functions. */
import type { Schemas, Take } from "../../api/client";

export type Step = Schemas["HistoryEntryOut"];

/** Steps that are called alike and follow one another. */
export interface Bundle {
  steps: Step[];
  last: Step;
}

/** Steps bundled; a bundle that is `open` (the number of its first step) comes one by one. */
export function bundled(steps: readonly Step[], open: ReadonlySet<number> = new Set()): Bundle[] {
  const out: Bundle[] = [];
  let first = 0;
  for (const step of steps) {
    const last = out.at(-1);
    const alike = last?.last.label === step.label;
    if (!alike) first = step.number;
    if (last && alike && !open.has(first)) {
      last.steps.push(step);
      last.last = step;
    } else out.push({ steps: [step], last: step });
  }
  return out;
}

/** Column and row of each take, given the bundle it hangs under: below one another; beyond the last step, side by side. */
export function placed(hung: readonly number[], count: number): [column: number, row: number][] {
  return hung.map((at, n) => {
    const before = hung.slice(0, n).filter((other) => other === at).length;
    return at === count - 1 ? [at + 2 + before, 2] : [at + 2, 2 + before];
  });
}

/** Under which bundle a take hangs: that of the step at which it was made, or the last that was there then; -1: none was. */
export function hangsAt(take: Take, bundles: readonly Bundle[]): number {
  if (take.step === 0) return -1;
  const own = bundles.findIndex((b) => b.steps.some((s) => s.number === take.step && s.created_at <= take.created_at));
  if (own >= 0) return own;
  let at = -1;
  bundles.forEach((b, n) => {
    if (b.steps[0]!.created_at <= take.created_at) at = n;
  });
  return at;
}
