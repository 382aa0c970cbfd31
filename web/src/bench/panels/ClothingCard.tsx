/** Clothing: lint found and cleared; its creases and colour are passes. */
import { useState } from "react";
import { Button } from "react-bootstrap";
import { Slider } from "../../ui/Slider";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";

const USUAL = 50;

export function ClothingCard() {
  const { gesture } = useBenchParts("gesture");
  const { analysis } = useFaces();
  const { mode, set } = useHand();
  const [sensitivity, setSensitivity] = useState(USUAL);
  const [looking, setLooking] = useState(false);
  if (!analysis?.faces.length) return null;
  return (
    <section className="mg-card" aria-label="Clothing">
      <div className="mg-card-head">
        <span className="mg-card-name">Clothing</span>
      </div>
      <div className="mg-card-body">
        <Slider
          label="Sensitivity"
          title="More finds lint that is fainter"
          min={0}
          max={100}
          initial={USUAL}
          value={sensitivity}
          onInput={setSensitivity}
        />
        <div className="mg-row">
          <Button
            variant="tray"
            disabled={looking}
            title="Threads, hairs and specks on cloth, each a touch of its own; buttons, prints and jewellery stay"
            onClick={() => {
              setLooking(true);
              gesture({ op: "clear_lint", sensitivity }, () => setLooking(false));
            }}
          >
            {looking ? "Looking …" : "Clear lint"}
          </Button>
          <Button
            variant="tray"
            active={mode === "stain"}
            aria-pressed={mode === "stain"}
            title="Outline a stain; its colour goes, the weave stays"
            onClick={() => set({ mode: mode === "stain" ? "heal" : "stain" })}
          >
            Stain
          </Button>
          <Button
            variant="tray"
            title="Creases softened by size, colour evened or changed: a pass on the clothing"
            onClick={() => gesture({ op: "add_pass", kind: "cloth" })}
          >
            Creases, colour
          </Button>
        </div>
      </div>
    </section>
  );
}
