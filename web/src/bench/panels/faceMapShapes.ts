/** A drawn face: the outline of each zone, in a box of 120 x 150. "Right" is the person's right. */
export const FACE_SHAPES: { zone: string; path: string }[] = [
  { zone: "neck", path: "M44 128 C50 133 70 133 76 128 L79 143 C68 148 52 148 41 143 Z" },
  { zone: "other_skin", path: "M41 144 C52 149 68 149 79 144 L98 150 L22 150 Z" },
  { zone: "ears", path: "M17 60 C9 58 10 84 20 86 L19 74 Z M103 60 C111 58 110 84 100 86 L101 74 Z" },
  { zone: "forehead", path: "M22 50 C23 27 40 17 60 17 C80 17 97 27 98 50 C88 43 72 43 66 49 L54 49 C48 43 32 43 22 50 Z" },
  { zone: "eyelids", path: "M24 55 C32 48 46 48 53 54 L52 62 C44 56 34 56 26 63 Z M96 55 C88 48 74 48 67 54 L68 62 C76 56 86 56 94 63 Z" },
  { zone: "under_eye_right", path: "M27 69 C35 75 45 75 52 68 C52 78 34 84 27 69 Z" },
  { zone: "under_eye_left", path: "M93 69 C85 75 75 75 68 68 C68 78 86 84 93 69 Z" },
  { zone: "nose", path: "M55 51 L65 51 L66 74 C70 82 72 88 67 92 C63 94 57 94 53 92 C48 88 50 82 54 74 Z" },
  { zone: "cheek_right", path: "M21 68 L25 70 C32 86 42 83 50 79 C48 85 46 88 48 92 C40 96 37 103 38 110 C28 103 21 88 21 68 Z" },
  { zone: "cheek_left", path: "M99 68 L95 70 C88 86 78 83 70 79 C72 85 74 88 72 92 C80 96 83 103 82 110 C92 103 99 88 99 68 Z" },
  { zone: "mouth_area", path: "M49 94 C55 97 65 97 71 94 C80 98 80 110 74 114 C66 118 54 118 46 114 C40 110 40 98 49 94 Z" },
  { zone: "chin", path: "M47 117 C55 120 65 120 73 117 C72 125 66 130 60 130 C54 130 48 125 47 117 Z" },
  { zone: "jaw", path: "M24 94 C28 104 36 110 44 115 L46 126 C34 119 26 107 24 94 Z M96 94 C92 104 84 110 76 115 L74 126 C86 119 94 107 96 94 Z" },
];

/** Lines that make it a face: head, hair, brows, eyes, mouth. */
export const FACE_LINES = [
  "M60 13 C31 13 18 34 20 66 C22 98 40 132 60 132 C80 132 98 98 100 66 C102 34 89 13 60 13 Z",
  "M20 60 C10 22 34 3 60 3 C86 3 110 22 100 60",
  "M26 51 C34 45 44 45 52 50 M94 51 C86 45 76 45 68 50",
  "M29 65 C35 59 45 59 51 66 C45 71 35 71 29 65 Z M91 65 C85 59 75 59 69 66 C75 71 85 71 91 65 Z",
  "M49 105 C54 101 58 103 60 104 C62 103 66 101 71 105 C65 111 55 111 49 105 Z M50 105 C56 106 64 106 70 105",
];
