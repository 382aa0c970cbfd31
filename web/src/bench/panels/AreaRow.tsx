/** One area of a mask with its settings. */
import { useId } from "react";
import { Button, Form } from "react-bootstrap";
import type { Area, Point } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import { RESULT, useCompare } from "../state/compare";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";
import { GONE, whose } from "../state/whose";
import { useZones } from "../state/zones";

const WAYS = { add: "and", take: "without", cross: "within" } as const;
const TITLES = { zone: "Zone", range: "Range", outline: "Outline", gradient: "Gradient" } as const;

interface Props {
  area: Area;
  first: boolean;
  onShow: (area: Area) => void;
  onChange: (area: Area) => void;
  onRemove: () => void;
  onPick: () => void;
}

export function AreaRow({ area, first, onShow, onChange, onRemove, onPick }: Props) {
  const roundId = useId();
  return (
    <li className="mg-area" aria-label={`Area: ${TITLES[area.kind].toLowerCase()}`}>
      <div className="mg-row">
        {!first && (
          <Form.Select
            size="sm"
            className="mg-way"
            aria-label="How it joins"
            title="and: either of both; without: less this; within: only where both are"
            value={area.way}
            onChange={(e) => onChange({ ...area, way: e.target.value as Area["way"] })}
          >
            {Object.entries(WAYS).map(([way, text]) => (
              <option key={way} value={way}>
                {text}
              </option>
            ))}
          </Form.Select>
        )}
        <strong>{TITLES[area.kind]}</strong>
        <span className="flex-grow-1" />
        <Button
          variant="quiet"
          active={area.invert}
          aria-pressed={area.invert}
          aria-label="Invert the area"
          title="Everywhere but here"
          onClick={() => onChange({ ...area, invert: !area.invert })}
        >
          <Icon name="circle-half" />
        </Button>
        <Button variant="quiet" aria-label="Remove the area" title="Remove" onClick={onRemove}>
          <Icon name="x" />
        </Button>
      </div>
      {area.kind === "zone" && <ZoneFields area={area} onChange={onChange} />}
      {area.kind === "zone" && (
        <Slider
          label="Counts"
          title="How much of the zone counts"
          unit="%"
          min={0}
          max={100}
          initial={100}
          value={area.share}
          onInput={(share) => onShow({ ...area, share })}
          onCommit={(share) => onChange({ ...area, share })}
        />
      )}
      {area.kind === "range" && <RangeFields area={area} onShow={onShow} onChange={onChange} onPick={onPick} />}
      {area.kind === "outline" && (
        <Slider
          label="Feather"
          unit="px"
          min={0}
          max={400}
          initial={1}
          value={area.feather_px}
          onInput={(feather_px) => onShow({ ...area, feather_px })}
          onCommit={(feather_px) => onChange({ ...area, feather_px })}
        />
      )}
      {area.kind === "gradient" && (
        <Form.Check
          type="switch"
          role="switch"
          id={roundId}
          label="Round"
          title="In circles around where it begins"
          checked={area.round}
          onChange={(e) => onChange({ ...area, round: e.target.checked })}
        />
      )}
    </li>
  );
}

function ZoneFields({ area, onChange }: { area: Extract<Area, { kind: "zone" }>; onChange: (area: Area) => void }) {
  const zones = useZones();
  const faces = useFaces((s) => s.analysis?.faces ?? []);
  return (
    <div className="mg-row">
      <Form.Select size="sm" aria-label="Zone" value={area.zone} onChange={(e) => onChange({ ...area, zone: e.target.value as typeof area.zone })}>
        {zones.data?.map((z) => (
          <option key={z.name} value={z.name}>
            {z.title}
          </option>
        ))}
      </Form.Select>
      {faces.length > 1 && (
        <Form.Select
          size="sm"
          aria-label="Person"
          value={whose(area.face, faces)}
          onChange={(e) => onChange({ ...area, face: faces[Number(e.target.value)]?.anchor ?? null })}
        >
          <option value={-1}>everyone</option>
          {whose(area.face, faces) === GONE && <option value={GONE}>somebody who isn't found any more</option>}
          {faces.map((f) => (
            <option key={f.number} value={f.number}>
              {f.title}
            </option>
          ))}
        </Form.Select>
      )}
    </div>
  );
}

type Range = Extract<Area, { kind: "range" }>;

function RangeFields({ area, onShow, onChange, onPick }: { area: Range; onShow: (a: Area) => void; onChange: (a: Area) => void; onPick: () => void }) {
  const picking = useHand((s) => s.mode === "pick");
  const { instead, set } = useCompare();
  const boosted = instead.show === "boosted";
  const limit = (field: "light" | "saturation", end: 0 | 1, label: string, title: string) => (
    <Slider
      label={label}
      title={title}
      min={0}
      max={100}
      initial={end * 100}
      value={area[field][end]}
      onInput={(v) => onShow({ ...area, [field]: bounded(area[field], end, v) })}
      onCommit={(v) => onChange({ ...area, [field]: bounded(area[field], end, v) })}
    />
  );
  return (
    <>
      <div className="mg-row">
        <Button variant="quiet" active={picking} aria-pressed={picking} title="Click colours in the picture; each click adds one" onClick={onPick}>
          <Icon name="eyedropper" /> Pick
        </Button>
        <Button variant="quiet" active={boosted} aria-pressed={boosted} title="Raise differences of colour for the eye; the result stays as it is" onClick={() => set({ instead: boosted ? RESULT : { show: "boosted", of: "" } })}>
          <Icon name="palette" /> Boosted
        </Button>
        {area.colours.length > 0 && (
          <Button variant="quiet" title="Forget the picked colours" onClick={() => onChange({ ...area, colours: [] })}>
            {area.colours.length} colour{area.colours.length > 1 && "s"} <Icon name="x" />
          </Button>
        )}
      </div>
      {area.colours.length > 0 && (
        <>
          <Slider
            label="Tolerance"
            title="Difference of colour up to which it counts"
            min={0.5}
            max={60}
            step={0.5}
            initial={12}
            value={area.tolerance}
            onInput={(tolerance) => onShow({ ...area, tolerance })}
            onCommit={(tolerance) => onChange({ ...area, tolerance })}
          />
          <Slider
            label="Softness"
            title="Part of the tolerance over which it fades"
            unit="%"
            min={0}
            max={100}
            initial={50}
            value={area.softness}
            onInput={(softness) => onShow({ ...area, softness })}
            onCommit={(softness) => onChange({ ...area, softness })}
          />
        </>
      )}
      {limit("light", 0, "Light from", "Only what is at least so light")}
      {limit("light", 1, "Light to", "Only what is at most so light")}
      {limit("saturation", 0, "Colour from", "Only what is at least so saturated")}
      {limit("saturation", 1, "Colour to", "Only what is at most so saturated: low for shine")}
    </>
  );
}

/** Limits with one end moved; the other gives way. */
function bounded([low, high]: Point, end: 0 | 1, value: number): Point {
  return end === 0 ? [value, Math.max(value, high)] : [Math.min(low, value), value];
}
