/** Words, and numbers and times in words. */

export function megabytes(bytes: number): string {
  return bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} KB` : `${(bytes / 1e6).toFixed(1)} MB`;
}

/** A text as it begins a line. */
export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

const STEPS: [number, Intl.RelativeTimeFormatUnit][] = [
  [60, "minute"],
  [3600, "hour"],
  [86400, "day"],
  [604800, "week"],
  [2629800, "month"],
];

/** "3 minutes ago"; below a minute "just now". */
export function ago(iso: string, now = Date.now()): string {
  const seconds = (now - Date.parse(iso)) / 1000;
  if (seconds < 60) return "just now";
  const [size, unit] = STEPS.findLast(([s]) => seconds >= s) ?? STEPS[0]!;
  return new Intl.RelativeTimeFormat("en", { numeric: "auto" }).format(
    -Math.floor(seconds / size),
    unit,
  );
}
