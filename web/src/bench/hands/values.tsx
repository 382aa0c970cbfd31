/** Values that several hands have in the tray. */
import { capital } from "../../ui/format";
import { Button, Form } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import { hint, type Action } from "../keys";
import { useFaces } from "../state/faces";
import { LARGEST, SMALLEST, useHand } from "../state/hand";
import { millimetres } from "../state/marks";
import { FORMS, useOutline, type Form as OutlineForm } from "../state/outline";

/** Brush sizes feel even when each step is a ratio. */
const RATIO = { to: (v: number) => Math.log(v), from: (p: number) => Math.exp(p) };

/** The brush's size, in pixels and on this face. */
export function Size() {
  const { radius, set } = useHand();
  const face = useFaces((s) => s.analysis?.faces[s.face]);
  return (
    <>
      <Slider
        label="Size"
        title={`${hint("smaller")}, ${hint("larger")}`}
        unit="px"
        min={SMALLEST}
        max={LARGEST}
        step={0.5}
        initial={24}
        curve={RATIO}
        value={radius}
        onInput={(radius) => set({ radius })}
      />
      {face && (
        <span className="mg-mm" title="Across, on this face">
          ⌀ {millimetres(2 * radius, face.px_per_mm)}
        </span>
      )}
    </>
  );
}

interface PerCent {
  label: string;
  title: string;
  field: "softness" | "opacity" | "flow" | "exposure" | "maskEdges";
  least?: number;
  initial: number;
}

/** A value of the hand in per cent. */
export function PerCent({ label, title, field, least = 1, initial }: PerCent) {
  const value = useHand((s) => s[field]);
  return (
    <Slider
      label={label}
      title={title}
      unit="%"
      min={least}
      max={100}
      initial={initial}
      value={value}
      onInput={(v) => useHand.getState().set({ [field]: v })}
    />
  );
}

export const Softness = () => (
  <PerCent label="Softness" title={`${hint("harder")}, ${hint("softer")}`} field="softness" least={0} initial={20} />
);
export const Strength = () => (
  <PerCent label="Strength" title="How much of the next touch shows" field="opacity" initial={100} />
);
export const Flow = () => (
  <PerCent label="Flow" title="How much each dab along the stroke does" field="flow" initial={100} />
);

/** The form of outlines that are drawn next. */
export function FormChoice() {
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
        <option key={f} value={f}>
          {capital(f)}
        </option>
      ))}
    </Form.Select>
  );
}

/** Whether features beside a move stay where they are. */
export function HoldFeatures() {
  const { holdFeatures, set } = useHand();
  return (
    <Switching
      active={holdFeatures}
      icon="shield-lock"
      title="Eyes, brows, nose and lips that the move isn't about stay where they are"
      onClick={() => set({ holdFeatures: !holdFeatures })}
    >
      Hold features
    </Switching>
  );
}

interface Switching {
  /** Words for assistive technology, where they are others than those shown. */
  label?: string;
  active?: boolean;
  title: string;
  action?: Action;
  icon?: string;
  onClick: () => void;
  children?: React.ReactNode;
}

/** A button of the tray that switches between two ways. */
export function Switching({ label, active, title, action, icon, onClick, children }: Switching) {
  return (
    <Button
      variant="tray"
      active={active}
      aria-label={label}
      aria-pressed={active}
      title={action ? hint(action, title) : title}
      onClick={onClick}
    >
      {icon && <Icon name={icon} />} {children}
    </Button>
  );
}
