/** What the share of right answers says: compared with guessing (binomial, one half each). */
export function byChance(right: number, of: number): string {
  const chance = atLeast(right, of);
  if (chance <= 0.05) return "That is seldom luck: the retouch can be seen.";
  if (right <= of / 2) return "That is no better than guessing.";
  return "That may still be luck: guessing does as well " + `${Math.round(100 * chance)} times in a hundred.`;
}

/** How often guessing has so many right or more. */
export function atLeast(right: number, of: number): number {
  let [term, sum] = [0.5 ** of, 0];
  for (let k = 0; k <= of; k++) {
    if (k >= right) sum += term;
    term *= (of - k) / (k + 1);
  }
  return sum;
}
