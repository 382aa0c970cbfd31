/** What is wished of a delivery, as the form has it. Pure functions. */
import type { DeliveryWish, Preferences } from "../../api/client";
import type { Size } from "../canvas/viewport";

export type Format = NonNullable<DeliveryWish["format"]>;
export type Packing = NonNullable<DeliveryWish["packing"]>;
export type Medium = NonNullable<DeliveryWish["sharpen"]>;
export type Preset = NonNullable<Preferences["presets"]>[number];

export type Intent = NonNullable<DeliveryWish["intent"]>;
export type SizeBy = "full" | "side" | "megapixels" | "print";

export interface Wish {
  format: Format;
  quality: number;
  bits: 8 | 16;
  packing: Packing;
  /** What says how large it gets. */
  size: SizeBy;
  longSide: number;
  megapixels: number;
  /** The longer side printed, in centimetres, and pixels per inch. */
  printCm: number;
  perInch: number;
  /** Per cent of the longer side; null: none. */
  border: number | null;
  black: boolean;
  /** `keep`, `srgb` or the id of a profile. */
  profile: string;
  intent: Intent;
  blackPoint: boolean;
  metadata: boolean;
  place: boolean;
  tell: boolean;
  credentials: boolean;
  sharpen: Medium;
  /** Null: as large as it gets. */
  mostKb: number | null;
  /** A pattern for the file's name; empty: as usual. */
  name: string;
}

export const FORMATS: { value: Format; text: string }[] = [
  { value: "jpeg", text: "JPEG" },
  { value: "png", text: "PNG, lossless" },
  { value: "tiff", text: "TIFF, lossless" },
  { value: "webp", text: "WebP" },
  { value: "avif", text: "AVIF" },
  { value: "jxl", text: "JPEG XL" },
  { value: "ora", text: "OpenRaster, a layer for each pass" },
];
/** What loses a little by quality; what loses nothing at 100; what holds content credentials; what holds 16 bits a channel. */
export const LOSSY: ReadonlySet<Format> = new Set<Format>(["jpeg", "webp", "avif", "jxl"]);
export const EXACT: ReadonlySet<Format> = new Set<Format>(["webp", "jxl"]);
export const SIGNED: ReadonlySet<Format> = new Set<Format>(["jpeg", "png", "tiff", "webp", "avif"]);
export const DEEP: ReadonlySet<Format> = new Set<Format>(["png", "tiff", "jxl", "ora"]);

export const SIZES: readonly (readonly [SizeBy, string])[] = [
  ["full", "Full"],
  ["side", "Long side"],
  ["megapixels", "Megapixels"],
  ["print", "Printed"],
];
/** What numbers of a size can be, as the studio takes them. */
export const LIMITS = { longSide: [16, 60000], megapixels: [0.01, 1000], printCm: [0.5, 2000], perInch: [10, 2400] } as const;

/** What is wrong with the size that is asked for, in words; empty: nothing. */
export function wrongSize(wish: Wish): string {
  const used = { full: [], side: ["longSide"], megapixels: ["megapixels"], print: ["printCm", "perInch"] } as const;
  for (const name of used[wish.size]) {
    const [low, high] = LIMITS[name];
    if (!(wish[name] >= low && wish[name] <= high)) return `From ${low} to ${high}.`;
  }
  return wish.size === "side" && !Number.isInteger(wish.longSide) ? "Whole pixels." : "";
}

/** Pixels of the file; pictures aren't enlarged, and a border lies within what was asked for. */
export function sizeOf(wish: Wish, width: number, height: number): [number, number] {
  const longer = Math.max(width, height);
  const around = 1 + (2 * (wish.border ?? 0)) / 100;
  const asked = {
    full: Infinity,
    side: wish.longSide,
    megapixels: longer * Math.sqrt((1e6 * wish.megapixels) / (width * height)),
    print: Math.round((wish.printCm / 2.54) * wish.perInch),
  }[wish.size];
  const inner = Math.max(1, Math.round(Math.min(longer, asked / around)));
  const rim = wish.border === null ? 0 : Math.max(1, Math.round((inner * wish.border) / 100));
  return [Math.max(1, Math.round((width * inner) / longer)) + 2 * rim, Math.max(1, Math.round((height * inner) / longer)) + 2 * rim];
}

export function usual(bits: number): Wish {
  return {
    format: "jpeg", quality: 95, bits: bits === 16 ? 16 : 8, packing: "deflate",
    size: "full", longSide: 2048, megapixels: 6, printCm: 30, perInch: 300, border: null, black: false,
    profile: "keep", intent: "relative", blackPoint: true,
    metadata: true, place: false, tell: true, credentials: false, sharpen: "none", mostKb: null, name: "",
  };
}

export function sent(wish: Wish, preset = "", number = 1): DeliveryWish {
  return {
    format: wish.format,
    quality: wish.quality,
    subsampling: "4:4:4",
    bits: DEEP.has(wish.format) ? wish.bits : null,
    long_side: wish.size === "side" ? wish.longSide : null,
    megapixels: wish.size === "megapixels" ? wish.megapixels : null,
    print_cm: wish.size === "print" ? wish.printCm : null,
    per_inch: wish.perInch,
    border: wish.border,
    border_lab: [wish.black ? 0 : 100, 0, 0],
    profile: wish.profile,
    intent: wish.intent,
    black_point: wish.blackPoint,
    keep_metadata: wish.metadata,
    keep_place: wish.metadata && wish.place,
    tell: wish.tell,
    credentials: wish.credentials && SIGNED.has(wish.format),
    sharpen: wish.sharpen,
    most_bytes: wish.mostKb === null ? null : 1000 * wish.mostKb,
    name: wish.name,
    packing: wish.packing,
    preset,
    number,
  };
}

/** A wish from a preset; what it doesn't say, or says in another form, stays as usual. */
export function wishOf({ wish }: Preset, bits: number): Wish {
  const base = usual(bits);
  const own = Object.entries(wish).filter(([name, value]) => {
    if (!(name in base)) return false;
    const known = base[name as keyof Wish];
    return name === "border" || name === "mostKb" ? value === null || typeof value === "number" : typeof value === typeof known;
  });
  const made = { ...base, ...Object.fromEntries(own) } as Wish;
  if (!FORMATS.some((f) => f.value === made.format)) made.format = base.format;
  if (!SIZES.some(([by]) => by === made.size)) made.size = base.size;
  // Presets of before said sizes and profiles in a shorter way.
  if (!("size" in wish) && typeof wish.longSide === "number") made.size = "side";
  if (!("profile" in wish) && wish.srgb === true) made.profile = "srgb";
  return made;
}

/** The middle of what is on the screen, as x, y, width, height in pixels of the framed picture; at most so large. */
export function detailOf(view: { x: number; y: number; scale: number }, screen: Size, picture: Size): [number, number, number, number] {
  const size = (most: number, least: number, seen: number, all: number) => Math.min(Math.max(Math.min(most, Math.round(seen)), least), all);
  const width = size(DETAIL.width, LEAST_DETAIL.width, screen.width / view.scale, picture.width);
  const height = size(DETAIL.height, LEAST_DETAIL.height, screen.height / view.scale, picture.height);
  const at = (from: number, seen: number, size: number, all: number) => Math.min(Math.max(0, Math.round(from + (seen - size) / 2)), all - size);
  return [at(view.x, screen.width / view.scale, width, picture.width), at(view.y, screen.height / view.scale, height, picture.height), width, height];
}
const DETAIL = { width: 800, height: 600 };
/** Less than that is lost on a page, however close the screen shows it. */
const LEAST_DETAIL = { width: 600, height: 400 };

/** Pixels per inch of a picture so many pixels long, printed so many centimetres long. */
export function perInch(pixels: number, centimetres: number): number {
  return (pixels * 2.54) / centimetres;
}
/** Below this a print looks soft at reading distance (common practice). */
export const LEAST_PER_INCH = 200;
