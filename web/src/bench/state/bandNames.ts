/** The bands of detail: names, words, sizes. */

/** What touches work in: the whole picture, a band of detail by size, or its tone or detail. */
export type Band = "all" | "grain" | "pores" | "spots" | "bumps" | "blotches" | "light" | "tone" | "detail";

export const BANDS: { name: Band; title: string; size: string }[] = [
  { name: "grain", title: "Fine grain", size: "below 0.2 mm" },
  { name: "pores", title: "Pores", size: "0.2 to 0.5 mm" },
  { name: "spots", title: "Spots", size: "0.5 to 1.5 mm" },
  { name: "bumps", title: "Bumps", size: "1.5 to 4 mm" },
  { name: "blotches", title: "Blotches", size: "4 to 12 mm" },
  { name: "light", title: "Light", size: "above 12 mm" },
];
export const PARTS: { name: Band; title: string; size: string }[] = [
  { name: "tone", title: "Tone", size: "what is larger than the dividing size" },
  { name: "detail", title: "Detail", size: "what is smaller than the dividing size" },
];
