import { memo } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { hint, type Action } from "../keys";
import { ORIGINAL, useCompare } from "../state/compare";
import { HANDS, IN_TRAY } from "../hands";
import { RING_MODES, useHand } from "../state/hand";
import { useView } from "../state/view";
import { BrushChoice } from "./BrushChoice";
import { WorkingLight } from "./WorkingLight";
import { ComparePopover } from "./ComparePopover";

const RING_TEXT = { always: "always", near: "near the pointer", picked: "only the picked one", never: "never" };
const RING_ICON = { always: "record-circle", near: "bullseye", picked: "check-circle", never: "circle" };

export const HandTray = memo(function HandTray() {
  const hand = useHand();
  const { held, set: look } = useCompare();
  const { view, zoomStep, zoomTo, fit, fitted } = useView();
  const now = HANDS[hand.mode];
  const percent = view.scale * window.devicePixelRatio * 100;
  const nextRings = RING_MODES[(RING_MODES.indexOf(hand.rings) + 1) % RING_MODES.length]!;
  return (
    <footer className="mg-tray" aria-label="Hand tray">
      <div className="mg-hand-choice" role="group" aria-label="What the hand does">
        {IN_TRAY.map(({ name, title, icon, how }) => (
          <button
            key={name}
            type="button"
            className="mg-hand"
            aria-pressed={hand.mode === name}
            aria-label={title}
            title={hint(name as Action, how)}
            onClick={() => hand.set({ mode: name })}
          >
            <Icon name={icon} />
            <span className="mg-hand-word">{title}</span>
          </button>
        ))}
        {!now.inTray && (
          <span className="mg-hand" aria-current="true" title={now.how}>
            <Icon name={now.icon} />
            <span className="mg-hand-word">{now.title}</span>
          </span>
        )}
      </div>
      {now.Values && <now.Values />}
      {now.brush && <BrushChoice />}
      {hand.chosen && now.takes && (
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
      <WorkingLight />
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
