/** The places of readings beyond their limits, outlined in the picture and numbered as in their list. */
import { useCheck, useCheckState } from "../state/check";
import { useFaces } from "../state/faces";
import { toScreen, type View } from "./viewport";

/** Of a face, a larger part is the whole of it. */
const MOST = 0.4;

const areaOf = ([x0 = 0, y0 = 0, x1 = 0, y1 = 0]: readonly number[]) => (x1 - x0) * (y1 - y0);

export function ReadingsLayer({ view }: { view: View }) {
  const { check } = useCheck();
  const shown = useCheckState((s) => s.shown);
  const faces = useFaces((s) => s.analysis?.faces);
  const faceArea = (n: number) => {
    const [, , w = 0, h = 0] = faces?.[n]?.box ?? [];
    return w * h;
  };
  if (!shown || !check.data) return null;
  return (
    <g>
      {check.data
        .filter((f) => f.amber)
        .map((f, n) => {
          // What is about the whole face needs no outline.
          if (!f.place || (f.face !== null && areaOf(f.place) > MOST * faceArea(f.face))) return null;
          const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = f.place;
          const corners = [[x0, y0], [x1, y0], [x1, y1], [x0, y1]].map(([x, y]) => toScreen(view, x!, y!));
          const [tx, ty] = corners[0]!;
          return (
            <g key={n} className="mg-reading" role="img" aria-label={`${n + 1}: ${f.title} ${f.words}`}>
              <polygon points={corners.map((c) => c.join(",")).join(" ")} />
              <text x={tx + 4 + 14 * (n % 4)} y={ty - 4}>
                {n + 1}
              </text>
            </g>
          );
        })}
    </g>
  );
}
