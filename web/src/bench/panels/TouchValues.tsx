/** The values of the picked touch, apart from those of the next one in the hand tray. */
import { useState, type RefObject } from "react";
import type { Operation, Pass, Setting } from "../../api/client";
import type { Painter } from "../canvas/Painter";
import { useBench } from "../state/bench";
import { extent, findTouch, union } from "../state/model";
import { SettingControl } from "./SettingControl";

interface Props {
  pass: Pass;
  settings: Setting[];
  painterRef: RefObject<Painter | null>;
}

export function TouchValues({ pass, settings, painterRef }: Props) {
  const { passes, picked, also, gesture } = useBench();
  const [draft, setDraft] = useState<Record<string, number>>({});
  const found = findTouch(passes, picked);
  if (!found || found.pass.id !== pass.id) return null;
  const { touch } = found;
  const ids = [touch.id, ...also];
  const operation = (name: string, value: number | boolean | string): Operation =>
    ids.length > 1
      ? { op: "change_touches", ids, values: { [name]: value } }
      : { op: "change_touch", id: touch.id, values: { [name]: value }, new_source: false };
  const show = (name: string, value: number) => {
    setDraft((d) => ({ ...d, [name]: value }));
    const larger = { ...touch, values: { ...touch.values, [name]: value } };
    painterRef.current?.showDraft([operation(name, value)], union(extent(touch), extent(larger)));
  };
  const commit = (name: string, value: number | boolean | string) =>
    gesture(operation(name, value), (outcome) => {
      setDraft(({ [name]: _, ...rest }) => rest);
      if (!outcome) painterRef.current?.endDraft();
    });
  return (
    <fieldset className="mg-touch-values">
      <legend>{ids.length > 1 ? "Picked touches" : "Picked touch"}</legend>
      {settings
        .filter((s) => s.name !== "shape")
        .map((s) => (
          <SettingControl
            key={s.name}
            setting={s}
            value={draft[s.name] ?? touch.values[s.name] ?? s.default}
            onDraft={(v) => (pass.kind === "fill" ? setDraft((d) => ({ ...d, [s.name]: v })) : show(s.name, v))}
            onCommit={(v) => commit(s.name, v)}
          />
        ))}
    </fieldset>
  );
}
