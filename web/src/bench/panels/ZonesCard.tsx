/** Zones: which pixels are what, shown over the picture and corrected by hand. */
import { Button, ButtonGroup, Form } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import { useBenchParts } from "../state/bench";
import { useFaces, type ZoneShow } from "../state/faces";
import { useHand } from "../state/hand";
import { useZones } from "../state/zones";

const SHOWS: { name: ZoneShow; title: string }[] = [
  { name: "off", title: "Off" },
  { name: "tint", title: "Tint" },
  { name: "mask", title: "White on black" },
  { name: "glass", title: "In the Glass" },
];
const GROUPS: { kind: string; title: string }[] = [
  { kind: "together", title: "Together" },
  { kind: "face", title: "Skin of the face" },
  { kind: "skin", title: "Other skin" },
  { kind: "feature", title: "Features" },
  { kind: "rest", title: "The rest" },
  { kind: "over", title: "Said of others" },
];
const WAYS: Record<string, string> = { brush: "Brush", colour: "Colour", invert: "Inverted", feather: "Feather" };

export function ZonesCard() {
  const { zone, zoneShow, set } = useFaces();
  const { passes, gesture } = useBenchParts("passes", "gesture");
  const hand = useHand();
  const zones = useZones();
  const touches = passes
    .filter((p) => p.kind === "zones")
    .flatMap((p) => p.touches)
    .filter((t) => t.values["zone"] === zone);
  const title = zones.data?.find((z) => z.name === zone)?.title ?? zone;
  const add = (values: Record<string, string | number | boolean>) =>
    gesture({ op: "add_touch", kind: "zones", touch: { path: [[0, 0]], values: { zone, ...values } } });
  const use = (mode: "zone" | "colour") => {
    hand.set({ mode: hand.mode === mode ? "heal" : mode });
    if (zoneShow === "off") set({ zoneShow: "tint" });
  };
  return (
    <section className="mg-card mg-card-open" aria-label="Zones">
      <div className="mg-card-head">
        <span className="mg-card-name">Zones</span>
      </div>
      <div className="mg-card-body">
        <Form.Select size="sm" aria-label="Zone" value={zone} onChange={(e) => set({ zone: e.target.value })}>
          {GROUPS.map((g) => (
            <optgroup key={g.kind} label={g.title}>
              {zones.data
                ?.filter((z) => z.kind === g.kind)
                .map((z) => (
                  <option key={z.name} value={z.name}>
                    {z.title}
                  </option>
                ))}
            </optgroup>
          ))}
        </Form.Select>
        <Form.Select
          size="sm"
          aria-label="Show the zone"
          value={zoneShow}
          onChange={(e) => {
            const show = e.target.value as ZoneShow;
            set({ zoneShow: show });
            if (show === "glass") hand.set({ glass: true });
          }}
        >
          {SHOWS.map((s) => (
            <option key={s.name} value={s.name}>
              {s.name === "off" ? "Not shown" : s.title}
            </option>
          ))}
        </Form.Select>
        <ButtonGroup size="sm" aria-label="Add or take">
          <Button variant="outline" active={hand.adding} aria-pressed={hand.adding} onClick={() => hand.set({ adding: true })}>
            <Icon name="plus" /> Add
          </Button>
          <Button variant="outline" active={!hand.adding} aria-pressed={!hand.adding} onClick={() => hand.set({ adding: false })}>
            <Icon name="dash" /> Take
          </Button>
        </ButtonGroup>
        <div className="mg-pair">
          <Button variant="tray" active={hand.mode === "zone"} aria-pressed={hand.mode === "zone"} onClick={() => use("zone")}>
            <Icon name="hand-brush" /> Brush
          </Button>
          <Button variant="tray" active={hand.mode === "colour"} aria-pressed={hand.mode === "colour"} onClick={() => use("colour")}>
            <Icon name="hand-sample" /> Colour
          </Button>
        </div>
        <Slider
          label="Edges"
          title="How strictly the brush stays with the colour under its middle"
          unit="%"
          min={0}
          max={100}
          initial={50}
          value={hand.edges}
          onInput={(edges) => hand.set({ edges })}
        />
        <Slider
          label="Tolerance"
          title="How far a colour may be from the one you click"
          min={1}
          max={60}
          initial={12}
          value={hand.tolerance}
          onInput={(tolerance) => hand.set({ tolerance })}
        />
        <Slider
          label="Feather"
          title="Softens the zone's edge when let go"
          unit="mm"
          min={0}
          max={20}
          step={0.1}
          initial={0}
          value={hand.feather}
          onInput={(feather) => hand.set({ feather })}
          onCommit={(feather) => {
            hand.set({ feather });
            if (feather > 0) add({ way: "feather", feather_mm: feather });
          }}
        />
        <Button variant="tray" onClick={() => add({ way: "invert" })}>
          <Icon name="circle-half" /> Invert {title.toLowerCase()}
        </Button>
        {touches.length > 0 && (
          <ol className="mg-touches" aria-label={`Corrections of ${title}`}>
            {[...touches].reverse().map((t, n) => (
              <li key={t.id}>
                <button type="button" disabled>
                  <Icon name={t.values["add"] ? "plus" : "dash"} /> {WAYS[String(t.values["way"])]}{" "}
                  {touches.length - n}
                </button>
                <Button
                  variant="quiet"
                  aria-label={`Delete correction ${touches.length - n}`}
                  onClick={() => gesture({ op: "remove_touch", id: t.id })}
                >
                  <Icon name="x" />
                </Button>
              </li>
            ))}
          </ol>
        )}
      </div>
    </section>
  );
}
