/** Where a pass acts: areas combined in order, grown and feathered, then painted on. */
import { useState, type RefObject } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import type { Area, Operation, Pass } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import type { Painter } from "../canvas/Painter";
import { hint } from "../keys";
import { pxPerMm } from "../state/bands";
import { useBenchParts } from "../state/bench";
import { keyOf, RESULT, useCompare, type Show } from "../state/compare";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";
import { AreaRow } from "./AreaRow";

type Ground = Partial<Pick<Pass["mask"], "areas" | "invert" | "grow_px" | "feather_px">>;

const VIEWS = [
  { show: "tint", title: "Tint", how: "The mask over the picture" },
  { show: "mask", title: "White", how: "The mask alone, white where the pass acts" },
  { show: "effect", title: "Effect", how: "What the pass changes, amplified, on grey" },
] as const;

/** New areas, as they begin. */
const RANGE: Area = {
  kind: "range",
  way: "add",
  invert: false,
  colours: [],
  tolerance: 12,
  softness: 50,
  light: [0, 100],
  saturation: [0, 100],
};

export function MaskCard({ pass, painterRef }: { pass: Pass; painterRef: RefObject<Painter | null> }) {
  const { passes, gesture } = useBenchParts("passes", "gesture");
  const { mode, set } = useHand();
  const { instead, set: look } = useCompare();
  const known = useFaces((s) => (s.analysis?.faces.length ?? 0) > 0);
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState<Ground>({});
  const mask = { ...pass.mask, ...draft };
  const { areas } = mask;
  const everywhere = areas.length === 0 && !mask.invert && pass.strokes === 0;
  const operation = (ground: Ground): Operation => ({ op: "set_mask", pass_id: pass.id, clear_strokes: false, ...ground });
  const change = (ground: Ground) =>
    gesture(operation(ground), (outcome) => {
      setDraft({});
      if (!outcome) painterRef.current?.endDraft();
    });
  const show = (ground: Ground) => {
    setDraft((d) => ({ ...d, ...ground }));
    painterRef.current?.showDraft([operation(ground)], null);
  };
  const add = (area: Area) => change({ areas: [...areas, { ...area, way: areas.length ? "cross" : "add" }] });
  const at = (n: number, area: Area) => areas.map((a, m) => (m === n ? area : a));
  const view = (name: Show["show"]) => {
    const wanted = { show: name, of: pass.id };
    look({ instead: keyOf(instead) === keyOf(wanted) ? RESULT : wanted });
  };
  const scale = pxPerMm();
  const words = everywhere ? "everywhere" : [areas.length && `${areas.length} area${areas.length > 1 ? "s" : ""}`, pass.strokes && "painted"].filter(Boolean).join(", ") || "nowhere";
  return (
    <section className="mg-mask" aria-label={`Mask of ${pass.name}`}>
      <div className="mg-row">
        <button type="button" className="mg-fold" aria-expanded={open} onClick={() => setOpen(!open)}>
          <Icon name={open ? "chevron-down" : "chevron-right"} /> Mask <small>{words}</small>
        </button>
        <Button variant="quiet" active={mode === "ease"} aria-pressed={mode === "ease"} title={hint("ease")} onClick={() => set({ mode: "ease", reveal: false })}>
          <Icon name="hand-ease" /> {pass.strokes ? `Eased (${pass.strokes})` : "Ease"}
        </Button>
      </div>
      {open && (
        <>
          <ul className="mg-areas">
            {areas.map((area, n) => (
              <AreaRow
                key={n}
                area={area}
                first={n === 0}
                onShow={(a) => show({ areas: at(n, a) })}
                onChange={(a) => change({ areas: at(n, a) })}
                onRemove={() => change({ areas: areas.filter((_, m) => m !== n) })}
                onPick={() => set({ mode: "pick" })}
              />
            ))}
          </ul>
          <div className="mg-row">
            <Dropdown>
              <Dropdown.Toggle variant="quiet" title="Limit the pass to a further area">
                <Icon name="plus-lg" /> Area
              </Dropdown.Toggle>
              <Dropdown.Menu>
                <Dropdown.Item as="button" disabled={!known} onClick={() => add({ kind: "zone", way: "add", invert: false, side: "both", share: 100, zone: "skin", face: null })}>
                  Zone of the face
                </Dropdown.Item>
                <Dropdown.Item
                  as="button"
                  onClick={() => {
                    add(RANGE);
                    set({ mode: "pick" });
                  }}
                >
                  Range of colour and light
                </Dropdown.Item>
                <Dropdown.Item as="button" onClick={() => set({ mode: "clip" })}>
                  Outline
                </Dropdown.Item>
                <Dropdown.Item as="button" onClick={() => set({ mode: "gradient" })}>
                  Gradient
                </Dropdown.Item>
                {passes.some((p) => p.id !== pass.id) && <Dropdown.Header>As that of</Dropdown.Header>}
                {passes
                  .filter((p) => p.id !== pass.id)
                  .map((p) => (
                    <Dropdown.Item key={p.id} as="button" onClick={() => gesture({ op: "copy_mask", pass_id: pass.id, from_id: p.id })}>
                      {p.name}
                    </Dropdown.Item>
                  ))}
              </Dropdown.Menu>
            </Dropdown>
            <Form.Check
              type="switch"
              role="switch"
              id={`invert-${pass.id}`}
              label="Invert"
              title="Everywhere else instead"
              checked={mask.invert}
              onChange={(e) => change({ invert: e.target.checked })}
            />
            {!everywhere && (
              <Button
                variant="quiet"
                title="The pass acts everywhere again, as strongly as at first"
                onClick={() =>
                  gesture({ op: "set_mask", pass_id: pass.id, areas: [], invert: false, grow_px: 0, feather_px: 0, clear_strokes: true, label: "Everywhere:" })
                }
              >
                Everywhere
              </Button>
            )}
          </div>
          {areas.length > 0 && (
            <>
              {(
                [
                  ["Grow", "grow_px", -20, "Moves the edge outwards; below 0, inwards"],
                  ["Feather", "feather_px", 0, "Width over which the edge fades"],
                ] as const
              ).map(([label, field, low, how]) => (
                <Slider
                  key={field}
                  label={label}
                  title={`${how}; ${Math.round(mask[field])} px here`}
                  unit="mm"
                  min={low}
                  max={20}
                  step={0.1}
                  initial={0}
                  value={Math.round((mask[field] / scale) * 10) / 10}
                  onInput={(v) => show({ [field]: v * scale })}
                  onCommit={(v) => change({ [field]: v * scale })}
                />
              ))}
            </>
          )}
          <div className="mg-row" role="group" aria-label="Show the mask">
            {VIEWS.map((v) => (
              <Button
                key={v.show}
                variant="tray"
                active={instead.show === v.show && instead.of === pass.id}
                aria-pressed={instead.show === v.show && instead.of === pass.id}
                title={v.how}
                onClick={() => view(v.show)}
              >
                {v.title}
              </Button>
            ))}
            <Button
              variant="tray"
              title="The mask inside the Glass"
              onClick={() => {
                look({ inGlass: { show: "mask", of: pass.id } });
                set({ glass: true });
              }}
            >
              In the Glass
            </Button>
          </div>
        </>
      )}
    </section>
  );
}
