import { Form } from "react-bootstrap";
import type { Setting } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { capital } from "../../ui/format";
import { Slider } from "../../ui/Slider";
import { PictureSetting } from "./PictureSetting";

/** A control for a declared setting, whatever its type. */
export function SettingControl({
  setting,
  value,
  onDraft,
  onCommit,
}: {
  setting: Setting;
  value: number | boolean | string;
  onDraft: (value: number) => void;
  onCommit: (value: number | boolean | string, goesOn?: boolean) => void;
}) {
  if (setting.type === "switch")
    return (
      <Form.Check
        type="switch"
        role="switch"
        id={`setting-${setting.name}`}
        label={setting.title}
        title={setting.meaning}
        checked={Boolean(value)}
        onChange={(e) => onCommit(e.target.checked)}
      />
    );
  if (setting.type === "choice")
    return (
      <Choice
        label={setting.title}
        title={setting.meaning}
        value={String(value)}
        choices={setting.choices.map((c) => [c, capital(c)] as const)}
        onChange={(v) => onCommit(v)}
      />
    );
  if (setting.type === "picture") return <PictureSetting setting={setting} value={String(value)} onCommit={onCommit} />;
  return (
    <Slider
      name={setting.name}
      label={setting.title}
      title={setting.meaning}
      value={Number(value)}
      min={setting.low}
      max={setting.high}
      step={setting.step}
      unit={setting.unit}
      initial={Number(setting.default)}
      onInput={onDraft}
      onCommit={onCommit}
    />
  );
}
