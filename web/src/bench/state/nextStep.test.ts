import { describe, expect, it } from "vitest";
import { STAGES } from "./kinds";
import { nextStep } from "./nextStep";

describe("the next step of an empty stage", () => {
  it("is said for each, and offers no more than there is where no face is known", () => {
    for (const { name: stage } of STAGES) {
      for (const face of [true, false]) expect(nextStep(stage, face)).toMatch(/\.$/);
      // Routines, looks at a face and its numbers aren't shown there.
      expect(nextStep(stage, false)).not.toMatch(/Bright|routine|numbers|part of the face/);
    }
    expect(nextStep("features", true)).toContain("Bright");
  });
});
