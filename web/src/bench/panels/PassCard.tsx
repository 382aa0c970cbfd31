import { memo, useState, type RefObject } from "react";
import { Dropdown, Form } from "react-bootstrap";
import type { Kind, Operation, Pass, Setting } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { Icon } from "../../ui/Icon";
import { NameField } from "../../ui/NameField";
import { Slider } from "../../ui/Slider";
import type { Painter } from "../canvas/Painter";
import { makeReady } from "../canvas/readying";
import { hint } from "../keys";
import { useBench, useBenchParts } from "../state/bench";
import { BLENDS } from "../state/model";
import { carry } from "../state/carrying";
import { FoundButton } from "./FoundButton";
import type { CurvePoint } from "../state/curves";
import { CurveEditor } from "./CurveEditor";
import { GroupedSettings } from "./GroupedSettings";
import { KeepSettings } from "./KeepSettings";
import { MaskCard } from "./MaskCard";
import { SizesAtHand } from "./SizesAtHand";
import { PassReadings } from "./PassReadings";
import { PassTools } from "./PassTools";
import { RepeatsButton } from "./RepeatsButton";
import { SettingControl } from "./SettingControl";
import { SideChoice } from "./SideChoice";
import { TouchList } from "./TouchList";
import { TouchValues } from "./TouchValues";

interface Props {
  pass: Pass;
  kind: Kind | undefined;
  /** The pass below it in its stage. */
  below?: Pass | undefined;
  painterRef: RefObject<Painter | null>;
  /** One place up or down among those shown. */
  onMove: (id: string, by: 1 | -1) => void;
  onDrag: (id: string) => void;
  onDrop: (id: string) => void;
}

type Change = Omit<Extract<Operation, { op: "change_pass" }>, "op" | "id">;

/** Whether a setting has an effect beside the others: the dividing size does only in a part. */
function matters({ name, when }: Setting, { settings }: Pass): boolean {
  if (when && !when[1].includes(String(settings[when[0]]))) return false;
  const band = settings["band"];
  return band === undefined || name !== "divide_mm" || band === "tone" || band === "detail";
}

// Built up by brush, in sizes from lid to waterline.
const MADE_UP = new Set(["eye_make_up", "lash_line"]);

export const PassCard = memo(function PassCard({ pass, kind, below, painterRef, onMove, onDrag, onDrop }: Props) {
  const { open, gesture } = useBenchParts("open", "gesture");
  const isOpen = useBench((s) => s.openPass === pass.id);
  const [naming, setNaming] = useState(false);
  const [draft, setDraft] = useState<Record<string, number>>({});

  const grouped = kind?.settings.filter((s) => s.group) ?? [];
  const curves = kind?.settings.filter((s) => s.type === "curve") ?? [];
  const operation = (change: Change): Operation => ({ op: "change_pass", id: pass.id, ...change });
  const show = (key: string, value: number, change: Change) => {
    setDraft((d) => ({ ...d, [key]: value }));
    painterRef.current?.showDraft([operation(change)], null);
  };
  const commit = (key: string, change: Change, goesOn = false) => {
    const settle = () => setDraft(({ [key]: _, ...rest }) => rest);
    gesture(operation(change), (outcome) => {
      settle();
      if (!outcome) painterRef.current?.endDraft();
    }, goesOn);
  };
  const rename = (name: string | null) => {
    if (name && name !== pass.name) gesture(operation({ name }));
    setNaming(false);
  };

  return (
    <li
      onDragOver={(e) => e.preventDefault()}
      onDrop={() => onDrop(pass.id)}
      className={`mg-card ${pass.bound ? "mg-card-bound" : ""} ${isOpen ? "mg-card-open" : ""} ${pass.enabled && pass.stage_on ? "" : "mg-card-off"}`}
    >
      <div className="mg-card-head" draggable={!naming} onDragStart={() => onDrag(pass.id)} title="Drag to another place">
        <Form.Check
          type="switch"
          role="switch"
          aria-label={`${pass.name} on or off`}
          title={hint("passSwitch", "On or off")}
          checked={pass.enabled}
          onChange={(e) => gesture(operation({ enabled: e.target.checked }))}
        />
        {!naming ? (
          <button
            type="button"
            className="mg-card-name"
            aria-expanded={isOpen}
            title="Open; double-click to rename"
            onClick={() => open(isOpen ? null : pass.id)}
            onDoubleClick={() => setNaming(true)}
          >
            {pass.name}
            {kind?.touch_settings && <small>{pass.touches.length}</small>}
          </button>
        ) : (
          <NameField className="flex-grow-1" label="Name of the pass" initial={pass.name} onDone={rename} />
        )}
        <Dropdown align="end">
          <Dropdown.Toggle variant="quiet" className="mg-more" aria-label={`More for ${pass.name}`} title="More">
            <Icon name="three-dots" />
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {/* After the menu has given the focus back, or the field would lose it at once. */}
            <Dropdown.Item as="button" onClick={() => window.setTimeout(() => setNaming(true))}>
              Rename
            </Dropdown.Item>
            <Dropdown.Item as="button" onClick={() => gesture({ op: "duplicate_pass", id: pass.id })}>
              Duplicate
            </Dropdown.Item>
            <Dropdown.Item as="button" title="Then open the other portrait and bring it there" onClick={() => carry([pass])}>
              Copy for another portrait
            </Dropdown.Item>
            <Dropdown.Item as="button" title={hint("passUp")} onClick={() => onMove(pass.id, 1)}>
              Move up
            </Dropdown.Item>
            <Dropdown.Item as="button" title={hint("passDown")} onClick={() => onMove(pass.id, -1)}>
              Move down
            </Dropdown.Item>
            {below && (!pass.bound || below.bound?.id !== pass.bound.id) && (
              <Dropdown.Item
                as="button"
                title="One name, switch and strength for both, and for what either is bound to already"
                onClick={() => gesture({ op: "bind_passes", ids: [below.id, pass.id] })}
              >
                Bind with {below.name}
              </Dropdown.Item>
            )}
            {pass.bound && (
              <Dropdown.Item
                as="button"
                title="It keeps the strength that it has now"
                onClick={() => gesture({ op: "unbind_pass", id: pass.id })}
              >
                Take out of {pass.bound.name}
              </Dropdown.Item>
            )}
            <Dropdown.Divider />
            <Dropdown.Item as="button" title="Can be undone" onClick={() => gesture({ op: "remove_pass", id: pass.id })}>
              Delete
            </Dropdown.Item>
          </Dropdown.Menu>
        </Dropdown>
      </div>
      {isOpen && (
        <div
          className="mg-card-body"
          onPointerEnter={() => void makeReady("slider", painterRef.current)}
          onFocus={() => void makeReady("slider", painterRef.current)}
        >
          <Slider
            label="Strength"
            title="How much of this pass shows"
            unit="%"
            min={0}
            max={100}
            initial={100}
            value={draft["strength"] ?? pass.strength}
            onInput={(v) => show("strength", v, { strength: v })}
            onCommit={(v, goesOn) => commit("strength", { strength: v }, goesOn)}
          />
          {curves.length > 0 && (
            <CurveEditor
              settings={curves}
              values={(s) => (pass.settings[s.name] ?? s.default) as CurvePoint[]}
              onDraft={(name, points) => painterRef.current?.showDraft([operation({ settings: { [name]: points } })], null)}
              onCommit={(name, points) => commit(name, { settings: { [name]: points } })}
            />
          )}
          {grouped.length > 0 && (
            <GroupedSettings
              pass={pass}
              settings={grouped}
              draft={draft}
              onDraft={(values) => {
                setDraft((d) => ({ ...d, ...values }));
                painterRef.current?.showDraft([operation({ settings: values })], null);
              }}
              onCommit={(values, goesOn) => {
                // What was typed stays shown while it is on its way; a newer value does, too.
                setDraft((d) => ({ ...d, ...values }));
                gesture(operation({ settings: values }), (outcome) => {
                  setDraft((d) => Object.fromEntries(Object.entries(d).filter(([name, v]) => values[name] !== v)));
                  if (!outcome) painterRef.current?.endDraft();
                }, goesOn);
              }}
            />
          )}
          {kind?.settings.filter((s) => s.type !== "curve" && !s.group && matters(s, pass)).map((s) => (
            <SettingControl
              key={s.name}
              setting={s}
              value={draft[s.name] ?? (pass.settings[s.name] as number | string | boolean | undefined) ?? (s.default as number)}
              onDraft={(v) => show(s.name, v, { settings: { [s.name]: v } })}
              onCommit={(v, goesOn) => commit(s.name, { settings: { [s.name]: v } }, goesOn)}
            />
          ))}
          {kind?.way !== "shape" && <Choice
            label="Blend"
            title="How the pass joins what is below it"
            value={pass.blend}
            choices={Object.entries(BLENDS)}
            onChange={(blend) => gesture(operation({ blend: blend as Pass["blend"] }))}
          />}
          <PassTools pass={pass} />
          {kind?.by_side && <SideChoice pass={pass} />}
          {kind?.reads && <PassReadings pass={pass} />}
          <FoundButton pass={pass} kind={kind} />
          {kind?.by_side && <KeepSettings pass={pass} />}
          {MADE_UP.has(pass.kind) && <SizesAtHand />}
          <MaskCard pass={pass} painterRef={painterRef} />
          {pass.touches.some((t) => t.source) && <RepeatsButton pass={pass} />}
          {kind?.touch_settings && <TouchList pass={pass} />}
          {kind?.touch_settings && <TouchValues pass={pass} settings={kind.touch_settings} painterRef={painterRef} />}
        </div>
      )}
    </li>
  );
});
