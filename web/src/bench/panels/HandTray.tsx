import { Button, ButtonGroup } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import { hint } from "../keys";
import { useFaces } from "../state/faces";
import { LARGEST, RING_MODES, SMALLEST, TAKING, useHand, type Mode } from "../state/hand";
import { millimetres } from "../state/marks";
import { useView } from "../state/view";

/** Brush sizes feel even when each step is a ratio. */
const RATIO = { to: (v: number) => Math.log(v), from: (p: number) => Math.exp(p) };
const RING_TEXT = { always: "always", near: "near the pointer", never: "never" };

const HANDS: Record<Mode, { title: string; icon: string; how: string }> = {
  heal: { title: "Heal", icon: "bandaid", how: "A click or stroke heals with clean skin from nearby" },
  clone: { title: "Clone", icon: "copy", how: "A plain copy, from where you Alt-click" },
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
      <div className="mg-hand-choice" role="group" aria-label="What the hand does">
        {TAKING.map((mode) => (
          <button
            key={mode}
            type="button"
            className="mg-hand"
            aria-pressed={hand.mode === mode}
            title={hint(mode === "heal" ? "heal" : "clone", HANDS[mode].how)}
            onClick={() => hand.set({ mode })}
          >
            <Icon name={HANDS[mode].icon} /> {HANDS[mode].title}
          </button>
        ))}
        {!TAKING.includes(hand.mode) && (
          <span className="mg-hand" aria-current="true" title={HANDS[hand.mode].how}>
            <Icon name={HANDS[hand.mode].icon} /> {HANDS[hand.mode].title}
          </span>
        )}
      </div>
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
      {hand.mode === "clone" && (
        <Slider
          label="Flow"
          title="How much each dab along the stroke lays down"
          unit="%"
          min={1}
          max={100}
          initial={100}
          value={hand.flow}
          onInput={(flow) => hand.set({ flow })}
        />
      )}
      {hand.chosen && TAKING.includes(hand.mode) && (
        <Button
          variant="tray"
          active={hand.aligned}
          aria-pressed={hand.aligned}
          title={
            hand.aligned
              ? "The source goes along with the hand; click: every stroke starts from the same place"
              : "Every stroke starts from the same place; click: the source goes along with the hand"
          }
          onClick={() => hand.set({ aligned: !hand.aligned, chosen: { ...hand.chosen!, offset: null } })}
        >
          <Icon name={hand.aligned ? "link-45deg" : "pin-angle"} /> {hand.aligned ? "Aligned" : "Fixed"}
        </Button>
      )}
      <span className="flex-grow-1" />
      <Button
        variant="tray"
        active={hand.glass}
        aria-pressed={hand.glass}
        title={hint("glass", "A lens that shows the original")}
        onClick={() => hand.set({ glass: !hand.glass })}
      >
        <Icon name="search" /> <span className="mg-word">Glass</span>
      </Button>
      <Button
        variant="tray"
        title={hint("rings", `Rings: ${RING_TEXT[hand.rings]}`)}
        aria-label={`Rings: ${RING_TEXT[hand.rings]}`}
        onClick={() => hand.set({ rings: nextRings })}
      >
        <Icon name={hand.rings === "never" ? "circle" : hand.rings === "near" ? "bullseye" : "record-circle"} />{" "}
        <span className="mg-word">Rings</span>
      </Button>
      <Button
        variant="tray"
        active={hand.comparing}
        title={hint("original")}
        onPointerDown={() => hand.set({ comparing: true })}
        onPointerUp={() => hand.set({ comparing: false })}
        onPointerLeave={() => hand.comparing && hand.set({ comparing: false })}
      >
        <Icon name="eye" /> <span className="mg-word">Original</span>
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
