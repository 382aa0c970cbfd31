import { memo } from "react";
import { Button, ButtonGroup, Form } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import { hint, type Action } from "../keys";
import { ORIGINAL, useCompare } from "../state/compare";
import { useFaces } from "../state/faces";
import { CLEARING, LARGEST, PAINTING, RING_MODES, SMALLEST, TAKING, useHand, type Mode } from "../state/hand";
import { millimetres } from "../state/marks";
import { FORMS, useOutline, type Form as OutlineForm } from "../state/outline";
import { useView } from "../state/view";
import { BrushChoice } from "./BrushChoice";
import { ComparePopover } from "./ComparePopover";

/** Brush sizes feel even when each step is a ratio. */
const RATIO = { to: (v: number) => Math.log(v), from: (p: number) => Math.exp(p) };
const RING_TEXT = { always: "always", near: "near the pointer", picked: "only the picked one", never: "never" };
const RING_ICON = { always: "record-circle", near: "bullseye", picked: "check-circle", never: "circle" };

/** Modes that change the mask of the open pass, and have no strength. */
const MASKING: readonly Mode[] = ["clip", "gradient", "pick", "press"];

const HANDS: Record<Mode, { title: string; icon: string; how: string }> = {
  heal: { title: "Heal", icon: "bandaid", how: "A click or stroke heals with clean skin from nearby" },
  clone: { title: "Clone", icon: "copy", how: "A plain copy, from where you Alt-click" },
  patch: { title: "Patch", icon: "intersect", how: "Outline a place, then drag it onto clean skin" },
  fill: { title: "Fill", icon: "bucket", how: "What should be behind it, made from its surroundings" },
  blend: { title: "Blend", icon: "droplet-half", how: "Mixes neighbouring tones; the detail over them stays" },
  dodge_burn: { title: "Dodge", icon: "brightness-high", how: "Lightens or darkens softly, and builds up" },
  ease: { title: "Ease", icon: "eraser", how: "Take back a part of what the open pass did" },
  clip: { title: "Clip", icon: "scissors", how: "Outline where the open pass may act" },
  gradient: { title: "Gradient", icon: "shadows", how: "Drag from where the pass acts fully to where it ends" },
  pick: { title: "Pick", icon: "eyedropper", how: "Click colours for the range of the open pass's mask" },
  press: { title: "Press", icon: "hand-index", how: "Press on a colour and drag: left nearer to the skin, up lighter" },
  zone: { title: "Zone", icon: "brush", how: "Paint the zone" },
  colour: { title: "Colour", icon: "eyedropper", how: "Click colours of the zone" },
  lasso: { title: "Lasso", icon: "bounding-box-circles", how: "Draw around marks" },
  face: { title: "Face", icon: "bounding-box", how: "Drag a box around the face" },
  iris: { title: "Iris", icon: "bullseye", how: "Press in the middle of the iris and drag to its rim" },
  nudge: { title: "Nudge", icon: "arrows-move", how: "Drag a feature to where it is" },
};

/** The form of outlines that are drawn next. */
function FormChoice() {
  const { form, set } = useOutline();
  return (
    <Form.Select
      size="sm"
      className="mg-form-choice"
      aria-label="Form of the outline"
      title={hint("form")}
      value={form}
      onChange={(e) => set({ form: e.target.value as OutlineForm, nodes: [], closed: false })}
    >
      {FORMS.map((f) => (
        <option key={f}>{f}</option>
      ))}
    </Form.Select>
  );
}

/** The values of the next touch, as far as what the hand does has them. */
function HandValues() {
  const hand = useHand();
  const face = useFaces((s) => s.analysis?.faces[s.face]);
  const outline = useOutline();
  const { mode } = hand;
  const outlined = mode === "patch" || MASKING.includes(mode) || (mode === "fill" && hand.fillBy === "outline");
  return (
    <>
      {mode === "fill" && (
        <>
          <Button
            variant="tray"
            aria-label={`Fill by ${hand.fillBy}`}
            title={hint("fill", `By ${hand.fillBy}; click for the other`)}
            onClick={() => hand.set({ fillBy: hand.fillBy === "brush" ? "outline" : "brush" })}
          >
            <Icon name={hand.fillBy === "brush" ? "brush" : "pentagon"} /> {hand.fillBy === "brush" ? "Brush" : "Outline"}
          </Button>
          <Button
            variant="tray"
            active={outline.sparing}
            aria-pressed={outline.sparing}
            title="Outline what the next fills take nothing from"
            onClick={() => outline.set({ sparing: !outline.sparing, nodes: [], closed: false })}
          >
            <Icon name="shield" /> Spare{outline.spares.length > 0 && ` (${outline.spares.length})`}
          </Button>
          {face && (
            <Button
              variant="tray"
              active={!hand.anywhere}
              aria-pressed={!hand.anywhere}
              title={
                hand.anywhere
                  ? "Draws from anywhere around; click: only from zones like the place itself"
                  : "Draws only from zones like the place itself, and never from marks; click: from anywhere"
              }
              onClick={() => hand.set({ anywhere: !hand.anywhere })}
            >
              <Icon name="person-bounding-box" /> Zones
            </Button>
          )}
          {outline.spares.length > 0 && (
            <Button variant="tray" aria-label="Spare nothing" title="Spare nothing" onClick={() => outline.set({ spares: [] })}>
              <Icon name="shield-x" />
            </Button>
          )}
        </>
      )}
      {mode === "dodge_burn" && (
        <>
          <Button
            variant="tray"
            aria-label={hand.light === "dodge" ? "Dodge: lighter" : "Burn: darker"}
            title={hint("dodge_burn", hand.light === "dodge" ? "Lightens; click to darken" : "Darkens; click to lighten")}
            onClick={() => hand.set({ light: hand.light === "dodge" ? "burn" : "dodge" })}
          >
            <Icon name={hand.light === "dodge" ? "brightness-high" : "moon"} />
          </Button>
          <Form.Select
            size="sm"
            className="mg-form-choice"
            aria-label="Works on"
            value={hand.lightRange}
            onChange={(e) => hand.set({ lightRange: e.target.value as typeof hand.lightRange })}
          >
            {["shadows", "midtones", "highlights"].map((r) => (
              <option key={r}>{r}</option>
            ))}
          </Form.Select>
          <Slider
            label="Exposure"
            title="How strongly one dab works; 100 is one stop"
            unit="%"
            min={1}
            max={100}
            initial={10}
            value={hand.exposure}
            onInput={(exposure) => hand.set({ exposure })}
          />
        </>
      )}
      {mode === "ease" && (
        <Button
          variant="tray"
          active={hand.reveal}
          aria-pressed={hand.reveal}
          title={hint("ease", hand.reveal ? "Brings back; click to ease" : "Eases; click to bring back")}
          onClick={() => hand.set({ reveal: !hand.reveal })}
        >
          <Icon name={hand.reveal ? "brush" : "eraser"} /> {hand.reveal ? "Bring back" : "Ease"}
        </Button>
      )}
      {((outlined && !["pick", "gradient", "press"].includes(mode)) || outline.sparing) && <FormChoice />}
      {mode === "patch" && (
        <Button
          variant="tray"
          aria-label={hand.way === "blend" ? "Blend" : "Copy"}
          title={
            hand.way === "blend"
              ? "Blended: tone and light from around; click to copy plainly"
              : "Copied as it is; click to blend"
          }
          onClick={() => hand.set({ way: hand.way === "blend" ? "copy" : "blend" })}
        >
          <Icon name={hand.way === "blend" ? "intersect" : "copy"} /> {hand.way === "blend" ? "Blend" : "Copy"}
        </Button>
      )}
      {mode === "patch" && (
        <Slider
          label="Soft edge"
          title="Width inside of the outline over which the patch fades"
          unit="px"
          min={0}
          max={100}
          initial={6}
          value={hand.edge}
          onInput={(edge) => hand.set({ edge })}
        />
      )}
      {mode === "clip" && (
        <>
          <Button
            variant="tray"
            active={hand.clipOutside}
            aria-pressed={hand.clipOutside}
            title="Let the pass act outside of the outline instead"
            onClick={() => hand.set({ clipOutside: !hand.clipOutside })}
          >
            {hand.clipOutside ? "Outside" : "Inside"}
          </Button>
          <Slider
            label="Feather"
            title="Width over which the clip's edge fades"
            unit="px"
            min={0}
            max={200}
            initial={1}
            value={hand.clipFeather}
            onInput={(clipFeather) => hand.set({ clipFeather })}
          />
        </>
      )}
      {!outlined && (
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
      )}
      {face && !outlined && (
        <span className="mg-mm" title="Across, on this face">
          ⌀ {millimetres(2 * hand.radius, face.px_per_mm)}
        </span>
      )}
      {!outlined && mode !== "fill" && (
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
      )}
      {mode === "ease" && (
        <Slider
          label="Edges"
          title="Keeps to colours like those under the stroke: 0 not at all, 100 strictly"
          unit="%"
          min={0}
          max={100}
          initial={0}
          value={hand.maskEdges}
          onInput={(maskEdges) => hand.set({ maskEdges })}
        />
      )}
      {mode !== "ease" && mode !== "dodge_burn" && !MASKING.includes(mode) && (
        <Slider
          label="Strength"
          title="How much of the next touch shows"
          unit="%"
          min={1}
          max={100}
          initial={100}
          value={hand.opacity}
          onInput={(opacity) => hand.set({ opacity })}
        />
      )}
      {(mode === "clone" || mode === "blend" || mode === "dodge_burn" || mode === "ease") && (
        <Slider
          label="Flow"
          title="How much each dab along the stroke does"
          unit="%"
          min={1}
          max={100}
          initial={100}
          value={hand.flow}
          onInput={(flow) => hand.set({ flow })}
        />
      )}
    </>
  );
}

export const HandTray = memo(function HandTray() {
  const hand = useHand();
  const { held, set: look } = useCompare();
  const { view, zoomStep, zoomTo, fit, fitted } = useView();
  const percent = view.scale * window.devicePixelRatio * 100;
  const nextRings = RING_MODES[(RING_MODES.indexOf(hand.rings) + 1) % RING_MODES.length]!;
  return (
    <footer className="mg-tray" aria-label="Hand tray">
      <div className="mg-hand-choice" role="group" aria-label="What the hand does">
        {CLEARING.map((mode) => (
          <button
            key={mode}
            type="button"
            className="mg-hand"
            aria-pressed={hand.mode === mode}
            aria-label={HANDS[mode].title}
            title={hint(mode as Action, HANDS[mode].how)}
            onClick={() => hand.set({ mode })}
          >
            <Icon name={HANDS[mode].icon} /> {hand.mode === mode && HANDS[mode].title}
          </button>
        ))}
        {!CLEARING.includes(hand.mode) && (
          <span className="mg-hand" aria-current="true" title={HANDS[hand.mode].how}>
            <Icon name={HANDS[hand.mode].icon} /> {HANDS[hand.mode].title}
          </span>
        )}
      </div>
      <HandValues />
      {PAINTING.includes(hand.mode) && <BrushChoice />}
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
      {hand.penSeen && (
        <Button
          variant="tray"
          active={hand.pressure}
          aria-pressed={hand.pressure}
          title="The pen's pressure drives size and strength"
          onClick={() => hand.set({ pressure: !hand.pressure })}
        >
          <Icon name="pen" />
        </Button>
      )}
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
        <Icon name={RING_ICON[hand.rings]} />{" "}
        <span className="mg-word">Rings</span>
      </Button>
      <Button
        variant="tray"
        active={held?.show === "original"}
        aria-label="Original"
        title={hint("original")}
        onPointerDown={() => look({ held: ORIGINAL })}
        onPointerUp={() => look({ held: null })}
        onPointerLeave={() => held && look({ held: null })}
      >
        <Icon name="eye" />
      </Button>
      <ComparePopover />
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
});
