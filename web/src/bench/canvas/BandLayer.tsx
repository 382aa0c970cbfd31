/** One band of detail instead of the picture, or inside the Glass, its levels stretched. */
import { useEffect, useState } from "react";
import { useSettled } from "../../ui/useSettled";
import { pxPerMm } from "../state/bands";
import { useBench } from "../state/bench";
import { useHand } from "../state/hand";
import { useView } from "../state/view";
import { gridOf, toScreen, type Grid } from "./viewport";

const SETTLE_MS = 90;

export function BandLayer() {
  const { portrait, revision } = useBench();
  const { view, screen, picture } = useView();
  const { band, bandShow, divide, glass, lens } = useHand();
  const settled = useSettled(view, SETTLE_MS);
  const settledDivide = useSettled(divide, SETTLE_MS);
  const [shown, setShown] = useState<{ url: string; grid: Grid; band: string } | null>(null);
  const id = portrait?.id;
  const wanted = bandShow !== "off" && band !== "all" && (bandShow === "whole" || glass);

  useEffect(() => {
    if (!wanted || !id) return;
    const grid = gridOf(settled, picture, screen, 1);
    if (!grid) return;
    const stop = new AbortController();
    const query = new URLSearchParams({
      name: band,
      x: String(grid.x),
      y: String(grid.y),
      scale: String(grid.scale),
      width: String(grid.width),
      height: String(grid.height),
      px_per_mm: String(Math.min(Math.max(pxPerMm(), 0.2), 300)),
      divide_mm: String(settledDivide),
    });
    fetch(`/api/portraits/${id}/band?${query}`, { signal: stop.signal })
      .then(async (answer) => {
        if (answer.ok) setShown({ url: URL.createObjectURL(await answer.blob()), grid, band });
      })
      .catch(() => undefined);
    return () => stop.abort();
  }, [wanted, id, band, settledDivide, settled, picture, screen, revision]);
  useEffect(() => () => void (shown && URL.revokeObjectURL(shown.url)), [shown]);

  if (!wanted || shown?.band !== band) return null;
  const { grid, url } = shown;
  const [x, y] = toScreen(view, grid.x, grid.y);
  const k = view.scale / grid.scale;
  const image = (
    <image
      href={url}
      x={x}
      y={y}
      width={grid.width * k}
      height={grid.height * k}
      preserveAspectRatio="none"
      pointerEvents="none"
      role="img"
      aria-label={`Band ${band}`}
    />
  );
  if (bandShow === "whole") return image;
  return (
    <>
      <clipPath id="mg-band-lens">
        <circle cx={lens.x} cy={lens.y} r={lens.radius} />
      </clipPath>
      <g clipPath="url(#mg-band-lens)">{image}</g>
    </>
  );
}
