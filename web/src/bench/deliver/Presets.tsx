/** Ways of delivering saved by name; several can be delivered at once. */
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { usePreferences, withNamed, withoutNamed } from "../../session/preferences";
import type { Preset, Wish } from "./wish";

interface Props {
  wish: Wish;
  chosen: ReadonlySet<string>;
  onChoose: (names: ReadonlySet<string>) => void;
  onUse: (preset: Preset) => void;
}

export function Presets({ wish, chosen, onChoose, onUse }: Props) {
  const { presets, save, problem } = usePreferences();
  const [name, setName] = useState("");
  const keep = async () => {
    const own = { name: name.trim(), wish: { ...wish } };
    if (own.name && (await save((now) => ({ presets: withNamed(now.presets, own) })))) setName("");
  };
  return (
    <fieldset>
      <legend>Presets</legend>
      {presets.map((preset) => (
        <div key={preset.name} className="mg-preset">
          <Form.Check
            id={`preset-${preset.name}`}
            aria-label={`Deliver ${preset.name}`}
            title="Delivered together with the others that are ticked"
            checked={chosen.has(preset.name)}
            onChange={(e) => onChoose(new Set(e.target.checked ? [...chosen, preset.name] : [...chosen].filter((n) => n !== preset.name)))}
          />
          <button type="button" className="mg-card-name" title="Shows its settings here" onClick={() => onUse(preset)}>
            {preset.name}
          </button>
          <Button
            variant="quiet"
            aria-label={`Delete the preset ${preset.name}`}
            title="Delete"
            onClick={() => void save((now) => ({ presets: withoutNamed(now.presets, preset.name) }))}
          >
            <Icon name="x" />
          </Button>
        </div>
      ))}
      <Form
        className="mg-preset"
        onSubmit={(e) => {
          e.preventDefault();
          void keep();
        }}
      >
        <Form.Control
          size="sm"
          aria-label="Name of the preset"
          placeholder="Name these settings"
          maxLength={60}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <Button type="submit" size="sm" variant="secondary" disabled={!name.trim()}>
          Keep
        </Button>
      </Form>
      {problem && <p className="mg-warn">{problem}</p>}
    </fieldset>
  );
}
