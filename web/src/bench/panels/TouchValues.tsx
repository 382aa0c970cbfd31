/** The values of the picked touch, apart from those of the next one in the hand tray. */
import { useState, type RefObject } from "react";
import { Button } from "react-bootstrap";
import type { Operation, Pass, Setting } from "../../api/client";
import type { Painter } from "../canvas/Painter";
import { Icon } from "../../ui/Icon";
import { hint } from "../keys";
import { useBenchParts } from "../state/bench";
import { useFaces } from "../state/faces";
import { extent, findTouch, isOutline, union } from "../state/model";
import { SettingControl } from "./SettingControl";

interface Props {
  pass: Pass;
  settings: Setting[];
  painterRef: RefObject<Painter | null>;
}

export function TouchValues({ pass, settings, painterRef }: Props) {
  const { passes, picked, also, gesture } = useBenchParts("passes", "picked", "also", "gesture");
  const known = useFaces((s) => (s.analysis?.faces.length ?? 0) > 0);
  const [draft, setDraft] = useState<Record<string, number>>({});
  const found = findTouch(passes, picked);
  if (!found || found.pass.id !== pass.id) return null;
  const { touch } = found;
  const ids = [touch.id, ...also];
  // What has another try takes long: it is made anew only when its values are let go.
  const slow = settings.some((s) => s.name === "seed");
  const operation = (name: string, value: number | boolean | string): Operation =>
    ids.length > 1
      ? { op: "change_touches", ids, values: { [name]: value } }
      : { op: "change_touch", id: touch.id, values: { [name]: value } };
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
      <legend>{ids.length > 1 ? "Their values" : "Picked touch"}</legend>
      {settings
        .filter((s) => s.name !== "shape" && s.name !== "seed" && !(s.name === "radius_px" && isOutline(touch)))
        .map((s) => (
          <SettingControl
            key={s.name}
            setting={s}
            value={draft[s.name] ?? touch.values[s.name] ?? (s.default as number | boolean | string)}
            onDraft={(v) => (slow ? setDraft((d) => ({ ...d, [s.name]: v })) : show(s.name, v))}
            onCommit={(v) => commit(s.name, v)}
          />
        ))}
      {slow && (
        <Button
          variant="quiet"
          title={hint("again", "Another plausible result")}
          onClick={() => commit("seed", (Number(touch.values["seed"] ?? 0) + 1) % 10000)}
        >
          <Icon name="shuffle" /> Another try
        </Button>
      )}
      {touch.source && !slow && (
        <Button
          variant="quiet"
          title={hint("newSource", "Another of the proposed sources")}
          onClick={() => gesture({ op: "change_touch", id: touch.id, new_source: true })}
        >
          <Icon name="arrow-repeat" /> Another source
        </Button>
      )}
      {touch.source && known && (
        <Button
          variant="quiet"
          title={hint("otherSide", "Take from the mirrored place on the other side of the face")}
          onClick={() => gesture({ op: "change_touch", id: touch.id, mirrored: true })}
        >
          <Icon name="symmetry-vertical" /> Other side
        </Button>
      )}
    </fieldset>
  );
}
