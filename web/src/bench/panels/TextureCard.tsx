/** How much texture is left, zone by zone, and how far colour has moved: "too much" as a number. */
import { Slider } from "../../ui/Slider";
import { useFaces } from "../state/faces";
import { beyond, useLimits, useReadings } from "../state/natural";
import { useZones } from "../state/zones";

export function TextureCard() {
  const known = useFaces((s) => (s.analysis?.faces.length ?? 0) > 0);
  const limits = useLimits();
  const zones = useZones();
  const readings = useReadings();
  const open = limits.reading;
  if (!known) return null;
  const title = (name: string) => zones.data?.find((z) => z.name === name)?.title ?? name;
  const out = readings.data?.filter((r) => beyond(r, limits)).length ?? 0;
  return (
    <section className="mg-card" aria-label="Texture">
      <div className="mg-card-head">
        <button type="button" className="mg-card-name" aria-expanded={open} onClick={() => limits.set({ reading: !open })}>
          Texture <small>{open && readings.data ? (out ? `${out} beyond the limits` : readings.data.length ? "natural" : "not seen") : "left, by zone"}</small>
        </button>
      </div>
      {open && (
        <div className="mg-card-body">
          <table className="mg-readings">
            <thead>
              <tr>
                <th scope="col">Zone</th>
                <th scope="col" title="Fine texture against the original">
                  Texture
                </th>
                <th scope="col" title="Median change of colour, CIEDE2000">
                  ΔE
                </th>
              </tr>
            </thead>
            <tbody>
              {!readings.data && (
                <tr>
                  <td colSpan={3}>{readings.isError ? readings.error.message : "Reading the skin…"}</td>
                </tr>
              )}
              {readings.data?.length === 0 && (
                <tr>
                  <td colSpan={3}>This face is too small for pores to be seen.</td>
                </tr>
              )}
              {readings.data?.map((r) => (
                <tr key={r.zone} className={beyond(r, limits) ? "mg-warn" : undefined}>
                  <th scope="row">{title(r.zone)}</th>
                  <td>{Math.round(r.texture)} %</td>
                  <td>{r.change.toFixed(1)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <Slider label="Least" title="Less texture than this is marked" unit="%" min={50} max={100} initial={85} value={limits.least} onInput={(least) => limits.set({ least })} />
          <Slider label="Most" title="More texture than this is marked" unit="%" min={100} max={200} initial={110} value={limits.most} onInput={(most) => limits.set({ most })} />
          <Slider label="Colour" title="A larger change of colour than this is marked" unit="ΔE" min={1} max={20} step={0.5} initial={5} value={limits.change} onInput={(change) => limits.set({ change })} />
        </div>
      )}
    </section>
  );
}
