/** What a stage without passes says: the next sensible step on this picture. */
const WITH_FACE: Record<string, string> = {
  look: "Nothing here yet. Drag a range of the tone strip, or add a pass above.",
  clear: "Click a spot in the picture: a pass for it appears here by itself.",
  even: "Nothing here yet. A routine above sees to all skin at once; press / and say what bothers you, and its pass is made.",
  features: "Nothing here yet. Bright sees to eyes, lips and teeth at once; a pass above sees to one of them.",
  shape: "Nothing here yet. Pull a part of the face, nudge by hand, or set numbers.",
  finish: "Nothing here yet. A look is a set of passes at once; a pass above lies over everything retouched.",
};
// Routines, holds and numbers need a face.
const WITHOUT_FACE: Record<string, string> = {
  even: "Nothing here yet. Add a pass above, then paint on its mask where it is to act.",
  features: "Nothing here yet. Add a pass above, then paint on its mask where it is to act.",
  shape: "Nothing here yet. Nudge by hand, or outline a part and move it.",
};

export const nextStep = (stage: string, face: boolean): string => (face ? undefined : WITHOUT_FACE[stage]) ?? WITH_FACE[stage] ?? "";
