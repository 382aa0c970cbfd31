/** A zone over the picture: as a tint, as white on black, or inside the Glass alone. */
import { useEffect, useState } from "react";
import { useSettled } from "../../ui/useSettled";
import { useBench } from "../state/bench";
import { useFaces } from "../state/faces";
import { useHand } from "../state/hand";
import { useView } from "../state/view";
import { gridOf, type Grid } from "./viewport";

const SETTLE_MS = 90;

interface Shown {
  url: string;
  grid: Grid;
}

export function ZoneLayer() {
  const { id, zone, zoneShow, analysis } = useFaces();
  const revision = useBench((s) => s.revision);
  const { view, screen, picture } = useView();
  const { glass, lens } = useHand();
  const settled = useSettled(view, SETTLE_MS);
  const [shown, setShown] = useState<Shown | null>(null);
  const wanted = zoneShow !== "off" && id !== null;
  const state = analysis?.state;

  useEffect(() => {
    if (!wanted) return;
    const grid = gridOf(settled, picture, screen, 1);
    if (!grid) return;
    const stop = new AbortController();
    const query = new URLSearchParams({
      name: zone,
      x: String(grid.x),
      y: String(grid.y),
      scale: String(grid.scale),
      width: String(grid.width),
      height: String(grid.height),
    });
    fetch(`/api/portraits/${id}/zone?${query}`, { signal: stop.signal })
      .then(async (answer) => {
        if (!answer.ok) return;
        const url = URL.createObjectURL(await answer.blob());
        setShown({ url, grid });
      })
      .catch(() => undefined);
    return () => stop.abort();
  }, [wanted, id, zone, settled, picture, screen, revision, state]);
  useEffect(() => () => void (shown && URL.revokeObjectURL(shown.url)), [shown]);

  if (!wanted || !shown) return null;
  const { grid, url } = shown;
  const [x, y] = [(grid.x - view.x) * view.scale, (grid.y - view.y) * view.scale];
  const k = view.scale / grid.scale;
  const place = { x, y, width: grid.width * k, height: grid.height * k };
  const image = <image href={url} {...place} preserveAspectRatio="none" data-zone={zone} />;
  if (zoneShow === "mask") return <g className="mg-zone-mask">{image}</g>;
  if (zoneShow === "glass")
    return glass ? (
      <g className="mg-zone-mask">
        <clipPath id="mg-zone-lens">
          <circle cx={lens.x} cy={lens.y} r={lens.radius} />
        </clipPath>
        <g clipPath="url(#mg-zone-lens)">{image}</g>
      </g>
    ) : null;
  return (
    <g>
      <mask id="mg-zone-tint" style={{ maskType: "luminance" }}>
        {image}
      </mask>
      <rect {...place} className="mg-zone-tint" mask="url(#mg-zone-tint)" />
    </g>
  );
}
