/** Drawings of the hands: one family, made for this bench. A ring is a place of the picture, a thread leads from where something is taken. */
import type { ReactNode } from "react";

/** In a box of 24, drawn by lines 1.6 wide in the colour of the words beside them. */
export const DRAWN: Record<string, ReactNode> = {
  // A ring with its thread to a small clean one.
  "hand-heal": (
    <>
      <circle cx="15.5" cy="15.5" r="5.2" />
      <circle cx="5.8" cy="5.8" r="2.4" />
      <path d="M7.7 7.7 L11.7 11.7" strokeDasharray="2 1.6" />
    </>
  ),
  // The same ring twice, one after the other.
  "hand-clone": (
    <>
      <circle cx="8" cy="8" r="4.6" />
      <circle cx="16" cy="16" r="4.6" />
      <path d="M12.8 8.6 h3.6 v2.6" />
    </>
  ),
  // A free outline that is carried over.
  "hand-patch": (
    <>
      <path d="M3.5 13.5 c0-4 3-5 5.5-4.5 s4.5 3.5 2.8 6.2 -8.3 3.6-8.3-1.7z" />
      <path d="M12.5 7.5 c2-3.4 7.8-3.2 8 .8 s-4 4.6-6 3" strokeDasharray="2.2 1.8" />
      <path d="M11 9.2 L13.4 6.6" />
    </>
  ),
  // A gap that closes.
  "hand-fill": (
    <>
      <path d="M4 12 c0-5 4-8 8-8 s8 3 8 8 -4 8-8 8 -8-3-8-8z" strokeDasharray="3 2" />
      <path d="M8.5 15.5 L15.5 8.5 M7.6 11 L11 7.6 M13 16.4 L16.4 13" />
    </>
  ),
  // Tones that flow into one another.
  "hand-blend": (
    <>
      <circle cx="7.5" cy="12" r="4.5" fill="currentColor" />
      <circle cx="12" cy="12" r="4.5" fill="currentColor" fillOpacity="0.35" />
      <circle cx="16.5" cy="12" r="4.5" />
    </>
  ),
  // A place that gets lighter.
  "hand-dodge": (
    <>
      <circle cx="12" cy="14.5" r="5.5" />
      <path d="M8.6 6 L12 2.8 L15.4 6 M12 11.8 v5.4 M9.3 14.5 h5.4" />
    </>
  ),
  // A place that gets darker.
  "hand-burn": (
    <>
      <circle cx="12" cy="9.5" r="5.5" fill="currentColor" fillOpacity="0.55" />
      <path d="M8.6 18 L12 21.2 L15.4 18" />
    </>
  ),
  // What was done grows faint.
  "hand-ease": (
    <>
      <path d="M3.5 8 h17" />
      <path d="M3.5 12 h12" strokeOpacity="0.75" />
      <path d="M3.5 16 h7" strokeOpacity="0.5" />
      <path d="M20.5 12.5 v4.5 h-4.5 M20.2 17 L15.4 12.4" />
    </>
  ),
  "hand-back": (
    <>
      <path d="M3.5 8 h7" strokeOpacity="0.5" />
      <path d="M3.5 12 h12" strokeOpacity="0.75" />
      <path d="M3.5 16 h17" />
      <path d="M16 4 h4.5 v4.5 M20.2 4.3 L15 9.5" />
    </>
  ),
  // A stroke with its round end.
  "hand-brush": (
    <>
      <path d="M4 18 c3.5-6.5 7-3 10-8" />
      <circle cx="16.6" cy="7.4" r="3.4" />
    </>
  ),
  // One place asked for its colour.
  "hand-sample": (
    <>
      <circle cx="12" cy="12" r="7.5" />
      <circle cx="12" cy="12" r="2.4" fill="currentColor" />
      <path d="M12 2.5 v3 M12 18.5 v3 M2.5 12 h3 M18.5 12 h3" />
    </>
  ),
  "hand-gradient": (
    <>
      <path d="M4 5 h16 v14 h-16z" />
      <path d="M8 5 v14" strokeOpacity="0.9" />
      <path d="M12 5 v14" strokeOpacity="0.55" />
      <path d="M16 5 v14" strokeOpacity="0.3" />
    </>
  ),
  // Around several places.
  "hand-around": (
    <>
      <path d="M4 11 c0-5 5-7 9-6.5 s8 3 7 8 -6 7-10 6 -6-3-6-7.500z" strokeDasharray="2.4 1.8" />
      <circle cx="9.5" cy="10.5" r="1.3" fill="currentColor" />
      <circle cx="14.5" cy="13.5" r="1.3" fill="currentColor" />
    </>
  ),
  // A part that is moved.
  "hand-part": (
    <>
      <path d="M3.5 9 c0-3.5 6-3.5 6 0 s-6 3.5-6 0z" strokeDasharray="2 1.6" />
      <path d="M14 15 c0-3.5 6.5-3.5 6.5 0 s-6.5 3.5-6.5 0z" />
      <path d="M10 11 L13.6 13.4 M13.8 10.6 v3 h-3" />
    </>
  ),
  // An edge taken hold of and drawn out.
  "hand-pull": (
    <>
      <path d="M5 3.5 c0 5 0 12 0 17" strokeDasharray="2 1.6" />
      <path d="M5 3.5 c0 4 7.5 5 7.5 8.5 s-7.5 4.5-7.5 8.5" />
      <path d="M14.5 12 h6 M18 9.5 L20.6 12 L18 14.5" />
    </>
  ),
  // Lines that give way.
  "hand-push": (
    <>
      <path d="M9 3.5 c0 4 4.5 5 4.5 8.5 s-4.5 4.5-4.5 8.5" />
      <path d="M14 3.5 c0 4 4.5 5 4.5 8.5 s-4.5 4.5-4.5 8.5" strokeOpacity="0.5" />
      <circle cx="5.5" cy="12" r="2.6" />
    </>
  ),
  "hand-pupil": (
    <>
      <path d="M2.5 12 c4-6.5 15-6.5 19 0 c-4 6.5-15 6.5-19 0z" />
      <circle cx="12" cy="12" r="2.6" fill="currentColor" />
    </>
  ),
  // A blot, dashed, on cloth.
  "hand-stain": (
    <>
      <path d="M3.5 7 h17 M3.5 12 h17 M3.5 17 h17 M7 3.5 v17 M17 3.5 v17" strokeOpacity="0.4" />
      <circle cx="12" cy="12" r="4.2" strokeDasharray="2 1.5" />
    </>
  ),
  // One hair out of line.
  "hand-strand": (
    <>
      <path d="M4 20 c1-7 4-12 9-15" />
      <path d="M8 20 c1-6 3.5-10.5 8.5-13" />
      <path d="M12 20 c.5-4 5-5 8.5-4.5" strokeDasharray="2 1.6" />
    </>
  ),
  "hand-hairs": <path d="M4 20 c1.5-6 3-10 6-15 M9 20 c1.5-5 3-9 6-14 M14 20 c1.5-4 3-8 6-13" />,
  "hand-hairline": (
    <>
      <path d="M3.5 15 c3-10 14-10 17 0" />
      <circle cx="3.5" cy="15" r="1.6" fill="currentColor" />
      <circle cx="12" cy="7.6" r="1.6" fill="currentColor" />
      <circle cx="20.5" cy="15" r="1.6" fill="currentColor" />
    </>
  ),
  // A picture laid over another.
  "hand-borrow": (
    <>
      <path d="M3.5 8.5 h11 v12 h-11z" />
      <path d="M8 8.5 v-5 h12.5 v12 h-6" strokeDasharray="2.4 1.8" />
      <circle cx="9" cy="14.5" r="2.6" />
    </>
  ),
  "hand-clip": (
    <>
      <path d="M5 4 c4 5 9 7 14.5 8.5" strokeDasharray="2.4 1.8" />
      <path d="M5 20 c2.5-4 5-6.5 8-8.5" />
      <path d="M12 7.5 L16 15.5" />
    </>
  ),
  "hand-face": (
    <>
      <path d="M12 3.5 c-5 0-7 3.5-6.5 8.5 s3 8.5 6.5 8.5 6-3.5 6.5-8.5 -1.5-8.5-6.5-8.500z" />
      <path d="M9 11 h.1 M15 11 h.1" strokeWidth="2.4" />
    </>
  ),
  "hand-iris": (
    <>
      <circle cx="12" cy="12" r="7.5" />
      <circle cx="12" cy="12" r="3" />
      <path d="M4.5 12 h-2 M21.5 12 h-2" />
    </>
  ),
  "hand-points": (
    <>
      <path d="M5 6 L12 10 L19 6 M12 10 L9 18 M12 10 L17 17" strokeOpacity="0.5" />
      <circle cx="5" cy="6" r="1.8" />
      <circle cx="19" cy="6" r="1.8" />
      <circle cx="12" cy="10" r="1.8" fill="currentColor" />
      <circle cx="9" cy="18" r="1.8" />
      <circle cx="17" cy="17" r="1.8" />
    </>
  ),
  // A colour pressed and led elsewhere.
  "hand-press": (
    <>
      <circle cx="9" cy="12" r="5.5" fill="currentColor" fillOpacity="0.35" />
      <path d="M9 12 h11 M17 9 L20 12 L17 15" />
    </>
  ),
};
