/** Brush sizes for make-up, from the whole lid to the waterline, in millimetres of the face. */
import { Button } from "react-bootstrap";
import { pxPerMm } from "../state/bands";
import { useHand } from "../state/hand";

const SIZES = [
  ["Lid", 9],
  ["Crease", 4.5],
  ["Lash roots", 2],
  ["Waterline", 0.9],
] as const;

export function SizesAtHand() {
  const { radius, set } = useHand();
  const scale = pxPerMm();
  return (
    <div className="mg-row" role="group" aria-label="Brush sizes">
      {SIZES.map(([name, mm]) => {
        const wanted = Math.max(Math.round(mm * scale) / 2, 1);
        return (
          <Button
            key={name}
            variant="tray"
            active={Math.abs(radius - wanted) < 0.5}
            title={`A brush ${mm} mm across, to bring the make-up back where it was eased, bit by bit`}
            onClick={() => set({ radius: wanted, mode: "ease", reveal: true, opacity: 30 })}
          >
            {name}
          </Button>
        );
      })}
    </div>
  );
}
