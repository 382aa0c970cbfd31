import { useState, type FormEvent, type RefObject } from "react";
import { Button, Form } from "react-bootstrap";
import type { Kind, Operation, Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import type { Painter } from "../canvas/Painter";
import { hint } from "../keys";
import { useBench } from "../state/bench";
import { MaskRow } from "./MaskRow";
import { SettingControl } from "./SettingControl";
import { TouchList } from "./TouchList";
import { TouchValues } from "./TouchValues";

interface Props {
  pass: Pass;
  kind: Kind | undefined;
  painterRef: RefObject<Painter | null>;
}

type Change = Omit<Extract<Operation, { op: "change_pass" }>, "op" | "id">;

/** Whether a setting has an effect beside the others: sizes do only in a band. */
function matters(name: string, { settings }: Pass): boolean {
  const band = settings["band"];
  if (band === undefined) return true;
  if (name === "divide_mm") return band === "tone" || band === "detail";
  return name !== "px_per_mm" || band !== "all";
}

export function PassCard({ pass, kind, painterRef }: Props) {
  const { openPass, open, gesture } = useBench();
  const [name, setName] = useState<string | null>(null);
  const [draft, setDraft] = useState<Record<string, number>>({});
  const isOpen = openPass === pass.id;

  const operation = (change: Change): Operation => ({ op: "change_pass", id: pass.id, ...change });
  const show = (key: string, value: number, change: Change) => {
    setDraft((d) => ({ ...d, [key]: value }));
    painterRef.current?.showDraft([operation(change)], null);
  };
  const commit = (key: string, change: Change) => {
    const settle = () => setDraft(({ [key]: _, ...rest }) => rest);
    gesture(operation(change), (outcome) => {
      settle();
      if (!outcome) painterRef.current?.endDraft();
    });
  };
  const rename = (event: FormEvent) => {
    event.preventDefault();
    const wanted = name?.trim();
    if (wanted && wanted !== pass.name) gesture(operation({ name: wanted }));
    setName(null);
  };

  return (
    <li className={`mg-card ${isOpen ? "mg-card-open" : ""} ${pass.enabled ? "" : "mg-card-off"}`}>
      <div className="mg-card-head">
        <Form.Check
          type="switch"
          role="switch"
          aria-label={`${pass.name} on or off`}
          title={hint("passSwitch", "On or off")}
          checked={pass.enabled}
          onChange={(e) => gesture(operation({ enabled: e.target.checked }))}
        />
        {name === null ? (
          <button
            type="button"
            className="mg-card-name"
            aria-expanded={isOpen}
            title="Open; double-click to rename"
            onClick={() => open(isOpen ? null : pass.id)}
            onDoubleClick={() => setName(pass.name)}
          >
            {pass.name}
            {kind?.touch_settings && <small>{pass.touches.length}</small>}
          </button>
        ) : (
          <Form onSubmit={rename} className="flex-grow-1">
            <Form.Control
              size="sm"
              autoFocus
              aria-label="Name of the pass"
              maxLength={200}
              value={name}
              onChange={(e) => setName(e.target.value)}
              onBlur={rename}
              onKeyDown={(e) => e.key === "Escape" && setName(null)}
            />
          </Form>
        )}
        <Button
          variant="quiet"
          aria-label={`Rename ${pass.name}`}
          title="Rename"
          onClick={() => setName(pass.name)}
        >
          <Icon name="pencil" />
        </Button>
        <Button
          variant="quiet"
          aria-label={`Delete ${pass.name}`}
          title="Delete (can be undone)"
          onClick={() => gesture({ op: "remove_pass", id: pass.id })}
        >
          <Icon name="trash3" />
        </Button>
      </div>
      {isOpen && (
        <div className="mg-card-body">
          <Slider
            label="Strength"
            title="How much of this pass shows"
            unit="%"
            min={0}
            max={100}
            initial={100}
            value={draft["strength"] ?? pass.strength}
            onInput={(v) => show("strength", v, { strength: v })}
            onCommit={(v) => commit("strength", { strength: v })}
          />
          {kind?.settings.filter((s) => matters(s.name, pass)).map((s) => (
            <SettingControl
              key={s.name}
              setting={s}
              value={draft[s.name] ?? pass.settings[s.name] ?? s.default}
              onDraft={(v) => show(s.name, v, { settings: { [s.name]: v } })}
              onCommit={(v) => commit(s.name, { settings: { [s.name]: v } })}
            />
          ))}
          <MaskRow pass={pass} />
          {kind?.touch_settings && <TouchList pass={pass} />}
          {kind?.touch_settings && <TouchValues pass={pass} settings={kind.touch_settings} painterRef={painterRef} />}
        </div>
      )}
    </li>
  );
}
