import { Button, ButtonGroup } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import { hint } from "../keys";
import { useFaces } from "../state/faces";
import { LARGEST, RING_MODES, SMALLEST, useHand, type Mode } from "../state/hand";
import { millimetres } from "../state/marks";
import { useView } from "../state/view";

/** Brush sizes feel even when each step is a ratio. */
const RATIO = { to: (v: number) => Math.log(v), from: (p: number) => Math.exp(p) };
const RING_TEXT = { always: "always", near: "near the pointer", never: "never" };

const HANDS: Record<Mode, { title: string; icon: string; how: string }> = {
  heal: { title: "Heal", icon: "bandaid", how: "A click or stroke heals with clean skin from nearby" },
  zone: { title: "Zone", icon: "brush", how: "Paint the zone" },
  colour: { title: "Colour", icon: "eyedropper", how: "Click colours of the zone" },
  lasso: { title: "Lasso", icon: "bounding-box-circles", how: "Draw around marks" },
  face: { title: "Face", icon: "bounding-box", how: "Drag a box around the face" },
  iris: { title: "Iris", icon: "bullseye", how: "Press in the middle of the iris and drag to its rim" },
  nudge: { title: "Nudge", icon: "arrows-move", how: "Drag a feature to where it is" },
};

export function HandTray() {
  const hand = useHand();
  const { view, zoomStep, zoomTo, fit, fitted } = useView();
  const face = useFaces((s) => s.analysis?.faces[s.face]);
  const percent = view.scale * window.devicePixelRatio * 100;
  const nextRings = RING_MODES[(RING_MODES.indexOf(hand.rings) + 1) % RING_MODES.length]!;
  return (
    <footer className="mg-tray" aria-label="Hand tray">
      <button
        type="button"
        className="mg-hand"
        title={hand.mode === "heal" ? HANDS.heal.how : `${HANDS[hand.mode].how}. Click to heal again`}
        onClick={() => hand.set({ mode: "heal" })}
      >
        <Icon name={HANDS[hand.mode].icon} /> {HANDS[hand.mode].title}
      </button>
      <Slider
        label="Size"
        title={`${hint("smaller")}, ${hint("larger")}`}
        unit="px"
        min={SMALLEST}
        max={LARGEST}
        step={0.5}
        initial={24}
        curve={RATIO}
        value={hand.radius}
        onInput={(radius) => hand.set({ radius })}
      />
      {face && (
        <span className="mg-mm" title="Across, on this face">
          ⌀ {millimetres(2 * hand.radius, face.px_per_mm)}
        </span>
      )}
      <Slider
        label="Softness"
        title={`${hint("harder")}, ${hint("softer")}`}
        unit="%"
        min={0}
        max={100}
        initial={20}
        value={hand.softness}
        onInput={(softness) => hand.set({ softness })}
      />
      <Slider
        label="Strength"
        title="How much of the healed place shows"
        unit="%"
        min={1}
        max={100}
        initial={100}
        value={hand.opacity}
        onInput={(opacity) => hand.set({ opacity })}
      />
      <span className="flex-grow-1" />
      <Button
        variant="tray"
        active={hand.glass}
        aria-pressed={hand.glass}
        title={hint("glass", "A lens that shows the original")}
        onClick={() => hand.set({ glass: !hand.glass })}
      >
        <Icon name="search" /> Glass
      </Button>
      <Button
        variant="tray"
        title={hint("rings", `Rings: ${RING_TEXT[hand.rings]}`)}
        aria-label={`Rings: ${RING_TEXT[hand.rings]}`}
        onClick={() => hand.set({ rings: nextRings })}
      >
        <Icon name={hand.rings === "never" ? "circle" : hand.rings === "near" ? "bullseye" : "record-circle"} />{" "}
        Rings
      </Button>
      <Button
        variant="tray"
        active={hand.comparing}
        title={hint("original")}
        onPointerDown={() => hand.set({ comparing: true })}
        onPointerUp={() => hand.set({ comparing: false })}
        onPointerLeave={() => hand.comparing && hand.set({ comparing: false })}
      >
        <Icon name="eye" /> Original
      </Button>
      <ButtonGroup className="mg-zoom" aria-label="Zoom">
        <Button variant="tray" aria-label="Zoom out" title={hint("zoomOut")} onClick={() => zoomStep(-1)}>
          <Icon name="dash" />
        </Button>
        <Button
          variant="tray"
          className="mg-percent"
          title={fitted ? hint("actual") : hint("fit")}
          aria-label={`Zoom ${Math.round(percent)} %`}
          onClick={() => (fitted ? zoomTo(1 / window.devicePixelRatio) : fit())}
        >
          {Math.round(percent)} %
        </Button>
        <Button variant="tray" aria-label="Zoom in" title={hint("zoomIn")} onClick={() => zoomStep(1)}>
          <Icon name="plus" />
        </Button>
      </ButtonGroup>
    </footer>
  );
}
