/** Which band of detail touches work in, and whether it is shown. */
import { useState } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import { Icon } from "../../ui/Icon";
import { Slider } from "../../ui/Slider";
import { hint } from "../keys";
import { BANDS, PARTS } from "../state/bandNames";
import { pxPerMm, touchesIn } from "../state/bands";
import { useBench } from "../state/bench";
import { useFaces } from "../state/faces";
import { useCompare } from "../state/compare";
import { useHand } from "../state/hand";
import { bandShown, proposedDivide, seeBothParts, showBand } from "../state/seeing";

const SHOWS = [
  { show: "off", text: "Hidden", title: "The picture as it is" },
  { show: "whole", text: "Shown", title: "The band instead of the picture" },
  { show: "glass", text: "In the Glass", title: "The band inside the Glass" },
] as const;

export function BandsCard() {
  const { band, divide, glass, set } = useHand();
  const { instead, inGlass } = useCompare();
  const bandShow = bandShown(band, instead, inGlass, glass);
  const passes = useBench((s) => s.passes);
  const known = useFaces((s) => (s.analysis?.faces.length ?? 0) > 0);
  const [open, setOpen] = useState(false);
  const counts = touchesIn(passes);
  const chosen = [...BANDS, ...PARTS].find((b) => b.name === band);
  const choose = (name: typeof band) => {
    const next = band === name ? "all" : name;
    set({ band: next });
    showBand(next, next === "all" ? "off" : bandShow === "off" ? "whole" : bandShow);
  };
  const entry = ({ name, title, size }: (typeof BANDS)[number]) => (
    <button
      key={name}
      type="button"
      className="mg-band"
      aria-pressed={band === name}
      title={size}
      onClick={() => choose(name)}
    >
      {title}
      {counts[name] ? <small aria-label={`${counts[name]} touches`}>{counts[name]}</small> : null}
    </button>
  );
  return (
    <section className="mg-card mg-bands" aria-label="Bands of detail">
      <div className="mg-card-head">
        <button type="button" className="mg-card-name" aria-expanded={open} onClick={() => setOpen(!open)}>
          By size <small>{chosen ? chosen.title : "whole picture"}</small>
        </button>
        {chosen && (
          <Button variant="quiet" aria-label="Work in the whole picture" title="Work in the whole picture" onClick={() => choose(band)}>
            <Icon name="x" />
          </Button>
        )}
      </div>
      {open && (
        <div className="mg-card-body">
          <div className="mg-band-list">{BANDS.map(entry)}</div>
          <div className="mg-band-list">{PARTS.map(entry)}</div>
          <Slider
            label="Divide at"
            title="Size at which tone and detail divide"
            unit="mm"
            min={0.1}
            max={10}
            step={0.1}
            initial={1}
            value={divide}
            onInput={(v) => set({ divide: v })}
          />
          <div className="mg-row">
            <Button variant="quiet" title="The size that suits how large the face is" onClick={() => set({ divide: proposedDivide() })}>
              <Icon name="magic" /> {proposedDivide()} mm
            </Button>
            <Button variant="quiet" title="Tone and detail side by side" onClick={seeBothParts}>
              <Icon name="layout-sidebar-inset-reverse" /> Both parts
            </Button>
          </div>
          <p className="mg-hint">
            {(divide * pxPerMm()).toFixed(1)} px here{known ? "" : "; no face says what a millimetre is, 8 px are taken"}
          </p>
          <ButtonGroup size="sm" aria-label="Show the band">
            {SHOWS.map((s) => (
              <Button
                key={s.show}
                variant="tray"
                active={bandShow === s.show}
                aria-pressed={bandShow === s.show}
                disabled={band === "all"}
                title={hint("band", s.title)}
                onClick={() => showBand(band, s.show)}
              >
                {s.text}
              </Button>
            ))}
          </ButtonGroup>
        </div>
      )}
    </section>
  );
}
