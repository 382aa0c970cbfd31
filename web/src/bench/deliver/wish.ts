/** What is wished of a delivery, as the form has it. Pure functions. */
import type { DeliveryWish, Preferences } from "../../api/client";

export type Format = NonNullable<DeliveryWish["format"]>;
export type Packing = NonNullable<DeliveryWish["packing"]>;
export type Medium = NonNullable<DeliveryWish["sharpen"]>;
export type Preset = NonNullable<Preferences["presets"]>[number];

export interface Wish {
  format: Format;
  quality: number;
  bits: 8 | 16;
  packing: Packing;
  /** Null: at full size. */
  longSide: number | null;
  srgb: boolean;
  metadata: boolean;
  place: boolean;
  tell: boolean;
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
/** What loses a little by quality; what loses nothing at 100; what holds 16 bits a channel. */
export const LOSSY: ReadonlySet<Format> = new Set<Format>(["jpeg", "webp", "avif", "jxl"]);
export const EXACT: ReadonlySet<Format> = new Set<Format>(["webp", "jxl"]);
export const DEEP: ReadonlySet<Format> = new Set<Format>(["png", "tiff", "jxl", "ora"]);

export function usual(bits: number): Wish {
  return { format: "jpeg", quality: 95, bits: bits === 16 ? 16 : 8, packing: "deflate", longSide: null, srgb: false, metadata: true, place: false, tell: true, sharpen: "none", mostKb: null, name: "" };
}

export function sent(wish: Wish): DeliveryWish {
  return {
    format: wish.format,
    quality: wish.quality,
    subsampling: "4:4:4",
    bits: DEEP.has(wish.format) ? wish.bits : null,
    long_side: wish.longSide,
    profile: wish.srgb ? "srgb" : "keep",
    keep_metadata: wish.metadata,
    keep_place: wish.metadata && wish.place,
    tell: wish.tell,
    sharpen: wish.sharpen,
    most_bytes: wish.mostKb === null ? null : 1000 * wish.mostKb,
    name: wish.name,
    packing: wish.packing,
  };
}

/** A wish from a preset; what it doesn't say, or says in another form, stays as usual. */
export function wishOf({ wish }: Preset, bits: number): Wish {
  const base = usual(bits);
  const own = Object.entries(wish).filter(([name, value]) => {
    if (!(name in base)) return false;
    const known = base[name as keyof Wish];
    return name === "longSide" || name === "mostKb" ? value === null || typeof value === "number" : typeof value === typeof known;
  });
  const made = { ...base, ...Object.fromEntries(own) } as Wish;
  return FORMATS.some((f) => f.value === made.format) ? made : { ...made, format: base.format };
}

/** Pixels per inch of a picture so many pixels long, printed so many centimetres long. */
export function perInch(pixels: number, centimetres: number): number {
  return (pixels * 2.54) / centimetres;
}
/** Below this a print looks soft at reading distance (common practice). */
export const LEAST_PER_INCH = 200;
