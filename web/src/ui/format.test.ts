import { describe, expect, it } from "vitest";
import { ago, capital, megabytes } from "./format";

describe("times in words", () => {
  const now = Date.parse("2026-05-01T12:00:00Z");
  it.each([
    ["2026-05-01T11:59:40Z", "just now"],
    ["2026-05-01T11:57:00Z", "3 minutes ago"],
    ["2026-05-01T10:00:00Z", "2 hours ago"],
    ["2026-04-30T12:00:00Z", "yesterday"],
    ["2026-04-10T12:00:00Z", "3 weeks ago"],
  ])("%s is %s", (iso, words) => expect(ago(iso, now)).toBe(words));

  it("begins with a capital", () => {
    expect(["blur", "Film", "", "ärmel"].map(capital)).toEqual(["Blur", "Film", "", "Ärmel"]);
  });

  it("names sizes of files", () => {
    expect(megabytes(1_620_000)).toBe("1.6 MB");
    expect(megabytes(320)).toBe("1 KB");
  });
});
