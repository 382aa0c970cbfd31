/** Dodge and burn: a soft brush that lightens or darkens, and builds up. */
import { capital } from "../../ui/format";
import { Form } from "react-bootstrap";
import { useHand } from "../state/hand";
import type { Hand } from "./hand";
import { paint, stroke } from "./stroke";
import { Flow, PerCent, Size, Softness, Switching } from "./values";

const RANGES = ["shadows", "midtones", "highlights"] as const;

function other() {
  const { light, set } = useHand.getState();
  set({ light: light === "dodge" ? "burn" : "dodge" });
}

function Values() {
  const { light, lightRange, set } = useHand();
  const dodges = light === "dodge";
  return (
    <>
      <Switching
        label={dodges ? "Dodge: lighter" : "Burn: darker"}
        title={dodges ? "Lightens; click to darken" : "Darkens; click to lighten"}
        action="dodge_burn"
        icon={dodges ? "hand-dodge" : "hand-burn"}
        onClick={other}
      />
      <Form.Select
        size="sm"
        className="mg-form-choice"
        aria-label="Works on"
        value={lightRange}
        onChange={(e) => set({ lightRange: e.target.value as typeof lightRange })}
      >
        {RANGES.map((r) => (
          <option key={r} value={r}>
            {capital(r)}
          </option>
        ))}
      </Form.Select>
      <PerCent label="Exposure" title="How strongly one dab works; 100 is one stop" field="exposure" initial={10} />
      <Size />
      <Softness />
      <Flow />
    </>
  );
}

export const dodgeBurn: Hand = {
  name: "dodge_burn",
  title: "Dodge",
  icon: "hand-dodge",
  how: "Lightens or darkens softly, and builds up",
  inTray: true,
  brush: () => true,
  still: true,
  again: other,
  Values,
  *gesture(first) {
    const done = yield* stroke(first);
    const { light: way, lightRange: range, exposure, flow } = useHand.getState();
    paint("dodge_burn", done, { way, range, exposure, flow }, false);
  },
};
